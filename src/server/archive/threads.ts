import type { ReaderMethods } from "./reader";
import type { Thread } from "./thread";
import type { WriterMethods } from "./writer";

/** A parameter that has `reader`. */
export interface HasReader {
  /** Reads what takes long, in a thread of its own. */
  reader: Thread<ReaderMethods>;
}

/** A parameter that has `writer`. */
export interface HasWriter {
  /** Writes what takes long, in another one. */
  writer: Thread<WriterMethods>;
}
