import type { FaultAnswer } from "@/contract/sources";
import { count } from "../format";
import { wordsFor } from "./reasons";

/** Why a reply does not answer from a passage that one pointed at. */
export function wordsOfFault(fault: FaultAnswer): string {
  switch (fault.kind) {
    case "not-named":
      return "It was made without this document: it is none of those that the app answered from.";
    case "never-found":
      return fault.rank === null
        ? "Never found: the message has none of its words, so it was not looked at."
        : `Never found: it stands at place ${count(fault.rank)} of what the message finds, too far down to be looked at.`;
    case "left-out":
      return `Found and left out: number ${fault.rank} of what the message finds, ${wordsFor(fault.reason)}.`;
    case "not-used":
      return `Carried and not used: it went along as [${fault.mark}], and the reply does not cite it.`;
    case "used":
      return `Nothing went wrong with it: it went along as [${fault.mark}], and the reply cites it.`;
  }
}
