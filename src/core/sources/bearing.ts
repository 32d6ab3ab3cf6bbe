import { stemsOf } from "./query";

/** A stretch of a text: its characters from `from` up to `to`. */
interface Stretch {
  from: number;
  to: number;
}

/**
 * The sentence of a passage, or the line of it, that what cites it stands on: the one that shares most words with that.
 * @param statement what stands before the mark
 */
export function bearingOn(passage: string, statement: string): Stretch {
  const wanted = new Set(stemsOf(statement));
  let best: { stretch: Stretch; shared: number } = { stretch: { from: 0, to: passage.length }, shared: 0 };
  for (const stretch of sentencesIn(passage)) {
    const own = new Set(stemsOf(passage.slice(stretch.from, stretch.to)));
    const shared = [...own].filter((stem) => wanted.has(stem)).length;
    if (shared > best.shared) best = { stretch, shared };
  }
  return best.stretch;
}

/** What a mark stands behind: the last sentence before it, other marks left out. @param from where its brackets begin */
export function statementBefore(text: string, from: number): string {
  const before = text.slice(Math.max(from - 1_000, 0), from).replace(/\[[^\][\n]*\]/g, " ");
  const last = sentencesIn(before).at(-1);
  return last ? before.slice(last.from, last.to) : before;
}

/** The sentences of a text, each with what ends it. */
function sentencesIn(text: string): Stretch[] {
  return Array.from(
    text.matchAll(/\S(?:[^.!?…。！？\n]|[.!?…](?!["'”’»)\]]*(?:\s|$)))*(?:[.!?…。！？]+["'”’»)\]]*)?/gu),
    ({ 0: sentence, index }) => ({ from: index, to: index + sentence.trimEnd().length }),
  ).filter(({ from, to }) => /[\p{L}\p{N}]/u.test(text.slice(from, to)));
}
