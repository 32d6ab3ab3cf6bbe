/** One event of a stream, before its data is read. */
export interface Frame {
  /** The event's name; empty where it has none. */
  name: string;
  data: string;
  /** The id that a server-sent event gives. */
  id?: string;
}

/** Cuts text that comes in any chunks into events. */
export interface Cutter {
  /** The events that this text completes. */
  feed(text: string): Frame[];
  /** The events that the close of the stream completes. */
  close(): Frame[];
  /** Whether something that was begun has not ended, such as a list that was not closed. */
  isOpen?: boolean;
  /** What came that belongs to no event. */
  stray?(): string;
}

/** A way in which answers are cut into events: how it is called, known and cut. One record, in a file of its own. */
export interface Framing {
  /** In a few words, as they stand behind "is framed as". */
  saying: string;
  /** The content type that it usually has. */
  usualType: string;
  /** The content types by which it is known. */
  types: RegExp;
  /** Whether an answer of such a type can be nothing else. */
  isTold: boolean;
  /** Whether a whole body looks like it. */
  isIn(body: string): boolean;
  /**
   * Whether an answer whose type is another begins like it; undefined where more of it is needed. Not there where nothing
   * but the type tells.
   * @param canBeWhole whether it may be one document instead
   */
  begins?(opening: string, canBeWhole: boolean): boolean | undefined;
  /** What cuts it; not there where it is read as a whole. */
  cutter?: () => Cutter;
  /** How an event is written out again: what stands around its data. */
  around(frame: Frame): [before: string, after: string];
}
