import { type Expected, judge, namedIn, needsOf } from "./expectations/expectations";
import { whereNeeded } from "./needed";
import type { Judged } from "./outcome";
import type { Seen } from "./seen";
import type { Needed } from "./trial";

/** What is not done here, since it takes time or a compiler: as of `Seen`. */
export type Means = Pick<Seen, "matches" | "misfit">;

/** What is judged: a reply with what is expected of it, as it can be handed to a thread. */
export interface ToJudge {
  expected: readonly Expected[];
  seen: Omit<Seen, keyof Means | "named">;
  /** What was said in the turns before. */
  earlier: readonly { turn: number; said: string }[];
}

/** An expectation as it came out; where it broke, with where what it needed was to be had. */
export type JudgedReply = Judged & { needed?: Needed };

/** Holds a reply against all that is expected of it. */
export function judgeAll({ expected, seen, earlier }: ToJudge, means: Means): JudgedReply[] {
  const whole: Seen = { ...seen, ...means, named: namedIn(expected) };
  return expected.map((each): JudgedReply => {
    const judged = judge(each, whole);
    if (judged.outcome !== "broke") return judged;
    const needed = whereNeeded(needsOf(each.expectation), earlier, seen.turns, seen.prompt);
    return needed ? { ...judged, needed } : judged;
  });
}
