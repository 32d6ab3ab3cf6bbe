import { problemKinds } from "../../problem/problem";
import { Unreadable } from "../fault";
import type { ExpectationKind, Expects } from "./expectation";

const ways = ["complete", "cut", "refused", "stopped"] as const;

interface Ends extends Expects {
  kind: "ends";
  outcome: string;
}

/** How the reply ended: a word of a stored reply's state, or the kind of a problem. */
export const ends: ExpectationKind<Ends, { outcome: string }> = {
  forms: ["ends complete", "does not end cut", "ends refused", "ends too-long"],
  read(phrase) {
    const form = phrase.takesOne(["ends", "does not end"]);
    if (!form) return undefined;
    const outcome = phrase.takesOne([...ways, ...problemKinds]);
    if (!outcome)
      throw new Unreadable(
        "there is no such outcome",
        `Write one of ${ways.join(", ")}, or the kind of a problem such as too-long.`,
      );
    return { kind: "ends", outcome, not: form === "does not end" || undefined };
  },
  write: ({ outcome, not }) => `${not ? "does not end" : "ends"} ${outcome}`,
  judge: ({ outcome: wanted }, { outcome }) => ({ isMet: outcome === wanted, saw: { outcome } }),
  tell: ({ outcome }) => `ended ${outcome}`,
};
