/** One bar: a ratio of two things measured in the same run, and what it may be at most, or must be at least. */
export interface Row {
  what: string;
  ratio: number;
  bar: number;
  isMost: boolean;
}
