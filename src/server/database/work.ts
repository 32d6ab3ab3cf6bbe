/**
 * Work in a transaction. It may be done a second time where the first was rolled back; what it gives is
 * called once it is committed.
 */
export type Work = () => (() => void) | undefined;
