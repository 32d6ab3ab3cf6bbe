import type { DuetEnd } from "@/core/comparing/duet/duet";
import { many } from "../../shared/format";

/** Why a duet has ended, as a sentence. */
export function endingWords(end: DuetEnd, rounds: number): string {
  switch (end.kind) {
    case "rounds":
      return `It ended after ${many(rounds, "round")}, as many as it was to have.`;
    case "goodbye":
      return "It ended by itself: both said goodbye.";
    case "circles":
      return `It ended by itself: it went in circles. Each of the two had said at least ${Math.round(end.measure * 100)}% of its newest words before.`;
    case "price":
      return "It ended: one more utterance might have cost more than all of it may.";
    case "tokens":
      return "It ended: one more utterance might have taken more tokens than all of it may.";
    case "stopped":
      return "It was stopped.";
    case "failed":
      return "It could not continue.";
  }
}
