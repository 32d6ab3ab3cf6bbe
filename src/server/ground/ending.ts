/** A parameter that has `isClosing`. */
export interface HasEnd {
  /** Whether the process is about to end, and takes no new replies. */
  isClosing(): boolean;
}
