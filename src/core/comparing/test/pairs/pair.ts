/**
 * Two texts and the facts that each states, as a reader wrote them down: `09:40`, `EUR 4`, `2025-06-01`, `sunday`,
 * `4 bicycle`, `30 min`, `tansy holm`, `yes`; with `not` before what is denied.
 */
export type Pair = readonly [first: string, facts: readonly string[], second: string, facts: readonly string[]];
