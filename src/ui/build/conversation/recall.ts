/** What is recalled of what was sent: the text, and how many messages back that is; 0 for nothing. */
export interface Recalled {
  text: string;
  back: number;
}

/** Where the caret stands in a text. */
export interface Caret {
  text: string;
  at: number;
}

/**
 * What stands in the place of a text after so many steps back (1) or forth (-1) through what was sent; undefined where
 * the key moves the caret: in a text that is written or was changed, and in the middle of one with several lines.
 * @param sent the last first
 */
export function recalled(
  sent: readonly string[],
  { text, back }: Recalled,
  { at }: Pick<Caret, "at">,
  steps: 1 | -1,
): Recalled | undefined {
  const isOwn = text === "" || (back > 0 && text === sent[back - 1]);
  const isAtEdge = steps > 0 ? !text.slice(0, at).includes("\n") : !text.slice(at).includes("\n");
  const next = back + steps;
  if (!isOwn || !isAtEdge || next < 0 || next > sent.length) return undefined;
  return { text: sent[next - 1] ?? "", back: next };
}
