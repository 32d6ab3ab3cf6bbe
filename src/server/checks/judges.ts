import { createHash } from "node:crypto";
import type { Expected } from "@/core/checks/expectations/expectations";
import { rubricsIn } from "@/core/checks/expectations/rubric";
import { type Judgement, judgeQuestion, judgeTask, longestReason, standingOf, verdictIn } from "@/core/checks/rubric";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { Candidate } from "@/core/reply/events";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { holdForCalls, mostOf } from "../apps/budget";
import { type Chosen, chosenFor } from "../apps/candidate";
import { keepingSink } from "../dispatches/keeping-sink";
import { isRefusal } from "../ground/refusal";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import { type AnswerNeeds, committed, stopped, type TrialOf } from "../trials/answer";
import type { HasJudges } from "./judge-store";

/** What of the process is used here. */
export type JudgingNeeds = AnswerNeeds & HasJudges;

/** Tokens that a judge may say. */
const maxOutput = 300;

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
    const { app, judge, rubric, message, text } = of;
    const chosen = chosenFor(home, judge);
    const question = judgeQuestion(rubric, message, text);
    const { words, price, failure } = await asked(home, { ...of, app, chosen, question }, signal);
    const verdict = failure === undefined ? (verdictIn(words) ?? null) : null;
    return { verdict, words: (failure ?? words).slice(0, longestReason), price };
  } catch (error) {
    if (!isRefusal(error)) throw error;
    return { verdict: null, words: error.problem.detail ?? "", price: 0 };
  }
}

async function asked(
  home: AnswerNeeds,
  {
    id,
    app,
    traffic,
    chosen,
    question,
  }: Pick<TrialOf, "id" | "app" | "traffic"> & { chosen: Chosen; question: string },
  signal: AbortSignal,
): Promise<{ words: string; price: number; failure?: string }> {
  const { connection, model } = chosen;
  const tokens = rawTokens(countsOf(`${judgeTask}${question}`));
  const most = mostOf([model], tokens, maxOutput, 1);
  const [letGo] = holdForCalls(home, app, [most], model.price.currency, Date.now(), true);
  const spentOn = { app: app.id, revision: app.liveRevision, content: app.draftHash, origin: "job" };
  const { sink } = keepingSink(home, { purpose: "judge", owner: id, conversation: null, spentOn }, (work) =>
    committed(home, work),
  );
  const order = plainOrder({
    rank: "job",
    speaker: { connection, model },
    messages: [
      { role: "system", pieces: piecesOf(judgeTask) },
      { role: "visitor", pieces: piecesOf(question) },
    ],
    settings: { temperature: 0, maxOutput },
    traffic,
  });
  const making = make(order, sink, home.means);
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  try {
    const { usage, paidBefore, takes } = await making.made;
    const [{ last }] = takes;
    const price = Math.round(((usage?.price ?? 0) + paidBefore) * 1_000_000);
    const failure = last.event === "problem" ? (last.data.detail ?? last.data.kind) : undefined;
    return { words: textOf(takes[0]).trim(), price, failure };
  } finally {
    signal.removeEventListener("abort", stop);
    letGo?.();
  }
}
