/** Something in a script that can't be read: its line, from 1, and why. */
export interface Fault {
  line: number;
  /** What is wrong. */
  why: string;
  /** What to do. */
  advice: string;
}

/** Thrown while a line is read; whoever reads the script knows which line that is. */
export class Unreadable extends Error {
  constructor(
    readonly why: string,
    readonly advice = "",
  ) {
    super(why);
  }
}
