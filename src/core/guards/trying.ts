import type { Caught, Guard } from "./guard";
import { foundIn, readied } from "./looking";

/** A place that a rule would have found, in the text around it. */
export interface Place {
  what: Caught["what"];
  /** What stands before it, it itself, and what stands after it. */
  before: string;
  found: string;
  after: string;
}

/** Characters of a text that are shown around what was found, and of that itself. */
const around = 40;
const longestFound = 120;
/** Places of one text that are shown. */
const mostPlaces = 5;

/**
 * What a rule finds in a text, without any model.
 * @param prompt the system prompt, for a rule that looks for that
 */
export function placesIn(guard: Guard, prompt: string, text: string): Place[] {
  const { looksFor } = guard;
  if (looksFor.kind === "length") {
    if ([...text].length <= looksFor.most) return [];
    return [{ what: "length", before: "", found: text.slice(0, longestFound), after: "…" }];
  }
  const [ready] = readied([{ ...guard, isOff: undefined }], prompt);
  const places = (ready?.begin() ?? []).flatMap(({ what, matcher }) =>
    foundIn(text, matcher).map(({ from, to }) => ({ what, from, to })),
  );
  return places.slice(0, mostPlaces).map(({ what, from, to }) => ({
    what,
    before: `${from > around ? "…" : ""}${text.slice(Math.max(0, from - around), from)}`,
    found: to - from > longestFound ? `${text.slice(from, from + longestFound)}…` : text.slice(from, to),
    after: `${text.slice(to, to + around)}${text.length > to + around ? "…" : ""}`,
  }));
}
