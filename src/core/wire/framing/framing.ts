/** One event of a stream, before its data is read. */
export interface Frame {
  /** The event's name; empty where it has none. */
  name: string;
  data: string;
  /** The id that a server-sent event gives. */
  id?: string;
}

/** Cuts text that comes in any chunks into events. */
export interface Framing {
  /** The events that this text completes. */
  feed(text: string): Frame[];
  /** The events that the close of the stream completes. */
  close(): Frame[];
}
