/** A passage that was found for a question, the best first. */
export interface Found {
  id: string;
  text: string;
  /** How well it answers the question: 1 for the best that was found, down to 0. */
  likeness: number;
  tokens: number;
  /** Whether it goes along whatever there is beside it: all of a document. */
  isWhole?: boolean;
}

/** How much of what is found is carried. */
export interface Choice {
  /** Passages at most. */
  best: number;
  /** Tokens that all of them may have together. */
  within: number;
  /** The likeness that one has to have. */
  bar: number;
}

/** What becomes of a passage that was found, and why. `rank` counts from 1. */
export type PassageFate = { rank: number } & (
  | { carried: true }
  | { carried: false; reason: { kind: "beyond-best"; most: number } }
  | { carried: false; reason: { kind: "below-bar" } }
  | { carried: false; reason: { kind: "over-room"; by: number } }
  /** One that is carried says the same, or has it in it. */
  | { carried: false; reason: { kind: "said-already"; by: string } }
);

export interface Chosen {
  found: Found;
  fate: PassageFate;
}

/**
 * Which of the passages that were found are carried: the best of them, as far as there is room. One that is too long
 * for what is left gives way to a shorter one behind it.
 */
export function chosenOf(found: readonly Found[], { best, within, bar }: Choice): Chosen[] {
  const carried: Found[] = [];
  let tokens = 0;
  return found.map((each, at): Chosen => {
    const rank = at + 1;
    const out = (reason: Extract<PassageFate, { carried: false }>["reason"]): Chosen => ({
      found: each,
      fate: { rank, carried: false, reason } as PassageFate,
    });
    if (each.isWhole) return { found: each, fate: { rank, carried: true } };
    if (each.likeness < bar) return out({ kind: "below-bar" });
    const same = carried.find((other) => plain(other.text).includes(plain(each.text)));
    if (same) return out({ kind: "said-already", by: same.id });
    if (carried.length >= best) return out({ kind: "beyond-best", most: best });
    const over = tokens + each.tokens - within;
    if (over > 0) return out({ kind: "over-room", by: over });
    carried.push(each);
    tokens += each.tokens;
    return { found: each, fate: { rank, carried: true } };
  });
}

function plain(text: string): string {
  return text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim();
}

/** What went wrong with a passage that a reply should have answered from. */
export type Fault =
  /** The question did not find it. `rank` is where it stood among all that was looked through, where that is known. */
  | { kind: "never-found"; rank: number | null }
  /** It was found, and not carried. */
  | { kind: "left-out"; fate: Extract<PassageFate, { carried: false }> }
  /** It was carried, and the reply does not cite it. */
  | { kind: "not-used"; rank: number }
  /** It was carried, and cited: nothing went wrong with it. */
  | { kind: "used"; rank: number };

/**
 * Which of three faults it was that a reply does not answer from a passage.
 * @param chosen what was found for it, and what became of that
 * @param cited the passages that it cites
 * @param rank where the passage stands among all that the question finds; null where it finds it not at all
 */
export function faultOf(
  passage: string,
  chosen: readonly Chosen[],
  cited: ReadonlySet<string>,
  rank: number | null,
): Fault {
  const fate = chosen.find(({ found }) => found.id === passage)?.fate;
  if (!fate) return { kind: "never-found", rank };
  if (!fate.carried) return { kind: "left-out", fate };
  return { kind: cited.has(passage) ? "used" : "not-used", rank: fate.rank };
}
