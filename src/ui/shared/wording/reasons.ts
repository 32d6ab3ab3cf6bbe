import type { Reason } from "@/core/context/reason";
import { count, many } from "../format";

/** Why a part of a context is carried, or not. */
export function wordsFor(reason: Reason): string {
  switch (reason.kind) {
    case "prompt":
      return "the system prompt goes first";
    case "no-prompt":
      return "the system prompt is empty";
    case "offered":
      return "the model may ask for them";
    case "typed":
      return "tells the model what the reply has to be";
    case "under-way":
      return "goes along with each further round";
    case "no-place":
      return "left out: the request of this provider has no place for pictures";
    case "opening":
      return "goes before every conversation";
    case "summary":
      return "stands for the turns that it covers";
    case "no-summary":
      return "there is none yet that fits: what is older is carried as far as there is room";
    case "explains":
      return "tells the model of passages and their marks";
    case "found":
      return "carried: the message finds it";
    case "beyond-best":
      return `left out: ${many(reason.most, "better one")} ${reason.most === 1 ? "is" : "are"} carried`;
    case "below-bar":
      return "left out: it has too little to do with the question";
    case "over-room":
      return `left out: ${many(reason.by, "token")} more than passages may have`;
    case "said-already":
      return `left out: [${reason.mark}] says the same`;
    case "newest":
      return "the message itself";
    case "remembered":
      return "carried: it is remembered";
    case "pinned":
      return "carried: it is pinned";
    case "summarised":
      return "left out: the summary covers it";
    case "forgotten":
      return "left out: no turns are carried";
    case "older":
      return `left out: older than the last ${many(reason.most, reason.of === "turns" ? "turn" : "message")}`;
    case "parted":
      return `left out: only one of its messages is among the last ${many(reason.most, "message")}, and a turn is not cut in two`;
    case "over-budget":
      return `left out: ${many(reason.by, "token")} over the budget`;
    case "over-window":
      return `left out: ${many(reason.by, "token")} more than the window has room for`;
    case "apart":
      return "left out: another model answered, and each remembers only its own";
    case "cleared":
      return "not carried: it stands above a clear";
    case "unanswered":
      return "not carried: the turn has no answer";
  }
}

/** A count that is estimated, with what it may be off by. */
export function aboutTokens(tokens: number, margin: number): string {
  return `about ${count(tokens)} ± ${count(margin)}`;
}
