import { judgeQuestion, verdictIn } from "@/core/checks/rubric";
import type { Content } from "@/core/revision/content";
import { chosenFor } from "../apps/candidate";
import type { OneAnswerNeeds } from "../apps/one-answer";
import { isRefusal } from "../ground/refusal";
import type { OrderGuards } from "../making/types";
import { type AskedOfJudge, askJudge } from "./ask-judge";

/** Has a guard's model say whether a reply may be shown; null where it can't be asked, or does not say. */
export function judging(
  home: OneAnswerNeeds,
  of: Pick<AskedOfJudge, "app" | "owner" | "conversation" | "spentOn" | "rank" | "traffic"> & {
    content: Content;
    /** What it answers. */
    message: () => string;
  },
): NonNullable<OrderGuards["judge"]> {
  return async ({ looksFor }, text, signal) => {
    if (looksFor.kind !== "judge") return null;
    try {
      const chosen = chosenFor(home, looksFor.by);
      const question = judgeQuestion(looksFor.rubric, of.message(), text);
      const { words, failure } = await askJudge(home, { ...of, chosen, question, guards: of.content.guards }, signal);
      return failure === undefined ? (verdictIn(words) ?? null) : null;
    } catch (error) {
      if (!isRefusal(error)) throw error;
      return null;
    }
  };
}
