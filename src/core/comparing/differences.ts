import { diffWords, diffWordsWithSpace } from "diff";
import type { Differences, Part } from "./parts";

/** Two texts to be compared word by word. */
export interface Texts {
  before: string;
  after: string;
  /** Whether blanks count, so that each text can be put together again from the parts. */
  isExact?: boolean;
}

/** Words that are taken out or put in, beyond which two texts are told as changed throughout. */
const mostEdits = 1_500;
/** Characters of both texts together beyond which they are not compared. */
const mostCompared = 2_000_000;

/**
 * What differs between two texts, in bounded time whatever they are: what they begin and end with alike is set aside
 * first, and the rest is compared until it differs in too much (Myers, "An O(ND) difference algorithm", 1986).
 */
export function differencesOf({ before, after, isExact = false }: Texts): Differences {
  if (before.length + after.length > mostCompared) return { kind: "throughout" };
  const start = sameStart(before, after);
  const end = sameEnd(before.slice(start), after.slice(start));
  const middle = (text: string) => text.slice(start, text.length - end);
  const compare = isExact ? diffWordsWithSpace : diffWords;
  const found = compare(middle(before), middle(after), { maxEditLength: mostEdits });
  if (!found) return { kind: "throughout" };
  const parts = found.map(
    ({ value, added, removed }): Part => ({
      text: value,
      in: added ? "after" : removed ? "before" : "both",
    }),
  );
  const whole: Part[] = [
    { text: before.slice(0, start), in: "both" },
    ...parts,
    { text: before.slice(before.length - end), in: "both" },
  ];
  return { kind: "parts", parts: joined(whole) };
}

/** Characters that two texts begin with alike, up to the end of a word. */
function sameStart(one: string, other: string): number {
  const most = Math.min(one.length, other.length);
  let at = 0;
  while (at < most && one[at] === other[at]) at += 1;
  if (at === one.length && at === other.length) return at;
  while (at > 0 && !/\s/.test(one[at - 1] ?? "")) at -= 1;
  return at;
}

/** Characters that two texts end with alike, from the beginning of a word. */
function sameEnd(one: string, other: string): number {
  const most = Math.min(one.length, other.length);
  let length = 0;
  while (length < most && one[one.length - 1 - length] === other[other.length - 1 - length]) length += 1;
  while (length > 0 && !/\s/.test(one[one.length - length] ?? "")) length -= 1;
  return length;
}

/** Parts without empty ones, neighbours of one kind as one. */
function joined(parts: readonly Part[]): Part[] {
  const whole: Part[] = [];
  for (const part of parts) {
    const last = whole.at(-1);
    if (part.text === "") continue;
    if (last?.in === part.in) last.text += part.text;
    else whole.push({ ...part });
  }
  return whole;
}
