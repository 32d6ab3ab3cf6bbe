/** What was typed to choose by number, so far. */
export interface Typed {
  /** The number; none where there is none of it. */
  number: number | undefined;
  /** Whether no further digit could make it another one of them. */
  isWhole: boolean;
}

/**
 * Takes one more digit of a number from 1 to `most`: after the 1 of 12 a 2 may follow, after the 2 of 12 nothing. A
 * digit that makes no such number begins another; 0 alone is 10, where there are so many.
 */
export function typedDigit(before: number | undefined, digit: number, most: number): Typed {
  const longer = (before ?? 0) * 10 + digit;
  const number = before !== undefined && longer <= most ? longer : digit === 0 ? 10 : digit;
  if (number > most) return { number: undefined, isWhole: true };
  return { number, isWhole: digit === 0 && before === undefined ? true : number * 10 > most };
}
