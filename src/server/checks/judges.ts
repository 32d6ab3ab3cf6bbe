import { createHash } from "node:crypto";
import type { Expected } from "@/core/checks/expectations/expectations";
import { rubricsIn } from "@/core/checks/expectations/rubric";
import { type Judgement, judgeQuestion, judgeTask, longestReason, standingOf, verdictIn } from "@/core/checks/rubric";
import type { Candidate } from "@/core/reply/events";
import { chosenFor } from "../apps/candidate";
import { isRefusal } from "../ground/refusal";
import { askJudge } from "../guards/ask-judge";
import type { AnswerNeeds, TrialOf } from "../trials/answer";
import type { HasJudges } from "./judge-store";

/** What of the process is used here. */
export type JudgingNeeds = AnswerNeeds & HasJudges;

/** By what a judge is known: another model, or other words of its task, make another one of it. */
export function judgeKey({ provider, model }: Candidate): string {
  return createHash("sha256")
    .update(JSON.stringify([provider, model, judgeTask]))
    .digest("hex");
}

/** What an answer is judged with. */
interface ToJudge {
  expected: readonly Expected[];
  message: string;
  text: string;
}

/**
 * What the app's judge says of a reply, by each rubric that is expected of it; nothing where none is.
 * @returns the judgements by their rubrics, and what they cost in millionths
 */
export async function judgementsOf(
  home: JudgingNeeds,
  trial: TrialOf,
  { expected, message, text }: ToJudge,
  signal: AbortSignal,
): Promise<{ judgements: Record<string, Judgement>; price: number }> {
  const judge = home.judges.judge(trial.app.id);
  const judgements: Record<string, Judgement> = {};
  let price = 0;
  for (const rubric of judge ? rubricsIn(expected) : []) {
    const said = await judged(home, { ...trial, judge: judge as Candidate, rubric, message, text }, signal);
    signal.throwIfAborted();
    price += said.price;
    const { counts } = standingOf(home.judges.byHand(trial.app.id, rubric, judgeKey(judge as Candidate)));
    judgements[rubric] = { verdict: said.verdict, words: said.words, counts };
  }
  return { judgements, price };
}

/** Has a judge say whether a reply meets a rubric. What can't be asked is no verdict, with the reason in its words. */
export async function judged(
  home: AnswerNeeds,
  of: Pick<TrialOf, "id" | "app" | "traffic"> & { judge: Candidate; rubric: string; message: string; text: string },
  signal: AbortSignal,
): Promise<Omit<Judgement, "counts"> & { price: number }> {
  try {
    const { id, app, traffic, judge, rubric, message, text } = of;
    const chosen = chosenFor(home, judge);
    const question = judgeQuestion(rubric, message, text);
    const spentOn = { app: app.id, revision: app.liveRevision, content: app.draftHash, origin: "job" };
    const { words, price, failure } = await askJudge(
      home,
      { app, owner: id, conversation: null, spentOn, rank: "job", chosen, question, traffic },
      signal,
    );
    const verdict = failure === undefined ? (verdictIn(words) ?? null) : null;
    return { verdict, words: (failure ?? words).slice(0, longestReason), price };
  } catch (error) {
    if (!isRefusal(error)) throw error;
    return { verdict: null, words: error.problem.detail ?? "", price: 0 };
  }
}
