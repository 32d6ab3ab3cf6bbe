/** A stretch of both texts, or of one of them. */
export interface Part {
  text: string;
  in: "both" | "before" | "after";
}

/** What differs: where, or that so much does that the parts would say nothing. */
export type Differences = { kind: "parts"; parts: Part[] } | { kind: "throughout" };

/** What differs between a text and itself: nothing. */
export function sameThroughout(text: string): Differences {
  return { kind: "parts", parts: text === "" ? [] : [{ text, in: "both" }] };
}

/** How many words were taken out and put in. */
export function wordsChanged(parts: readonly Part[]): number {
  const changed = parts.filter((part) => part.in !== "both");
  return changed.reduce((sum, { text }) => sum + (text.match(/\S+/g)?.length ?? 0), 0);
}
