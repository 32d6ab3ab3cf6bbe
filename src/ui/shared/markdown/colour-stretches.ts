/** A stretch of code, and the classes of what it is in its language; none where it is nothing special. */
export interface ColouredStretch {
  text: string;
  classes: string;
}

/** The stretches of a part of some code, which begins at a place. */
export function stretchesWithin(all: readonly ColouredStretch[], from: number, length: number): ColouredStretch[] {
  const own: ColouredStretch[] = [];
  let at = 0;
  for (const { text, classes } of all) {
    const part = text.slice(Math.max(from - at, 0), Math.max(from + length - at, 0));
    if (part !== "") own.push({ text: part, classes });
    at += text.length;
    if (at >= from + length) break;
  }
  return own;
}
