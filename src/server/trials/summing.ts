import { longestSummary, mostOfSummary } from "@/core/context/sum-up";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { countsOf } from "@/core/tokens/counts";
import { holdForCalls, mostOf } from "../apps/budget";
import { chosenFor } from "../apps/candidate";
import { keepingSink } from "../dispatches/keeping-sink";
import { newId } from "../ground/id";
import { isRefusal } from "../ground/refusal";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import { type Step, stepOn } from "../summaries/next-step";
import { type AnswerNeeds, committed, stopped, type TrialOf } from "./answer";
import type { TrialLine } from "./trial-line";

/**
 * Makes the summaries that are due of a trial's line before its next turn: a visitor comes later, when they are made.
 * One that can't be made is left out, as it is for visitors.
 * @returns what that cost, in millionths
 */
export async function sumUpTrial(
  home: AnswerNeeds,
  trial: TrialOf,
  line: TrialLine,
  signal: AbortSignal,
): Promise<number> {
  const { content } = trial.candidate;
  if (content.memory.kind !== "summary" || line.turns === 0) return 0;
  let price = 0;
  try {
    const { connection, model } = chosenFor(home, content);
    const by = { provider: connection.slug, model: model.name };
    const { window, calibration } = model;
    for (let on = undefined as TrialLine["summaries"][0] | undefined; !signal.aborted; ) {
      const step = stepOn(home, line, { content, by, window, calibration }, on);
      if (!step || step.kind === "refused") return price;
      const made = await summedUp(home, trial, step, signal);
      price += made.price;
      if (made.text === "") return price;
      const { covers } = step;
      on = {
        ...covers,
        id: newId("sum"),
        text: made.text,
        counts: countsOf(made.text),
        isCorrected: false,
        isCut: false,
        maker: by,
        price: null,
        making: null,
        at: Date.now(),
      };
      line.summaries.unshift(on);
    }
  } catch (error) {
    if (!isRefusal(error)) throw error;
  }
  return price;
}

/** Has a model sum up. */
async function summedUp(
  home: AnswerNeeds,
  { id, app, candidate, traffic }: TrialOf,
  { connection, model, text, tokens }: Step,
  signal: AbortSignal,
): Promise<{ text: string; price: number }> {
  const maxOutput = mostOfSummary(model.window);
  const [letGo] = holdForCalls(
    home,
    app,
    [mostOf([model], tokens, maxOutput, 1)],
    model.price.currency,
    Date.now(),
    true,
  );
  const spentOn = { app: app.id, revision: candidate.number, content: candidate.hash, origin: "job" };
  const { sink } = keepingSink(home, { purpose: "summary", owner: id, conversation: null, spentOn }, (work) =>
    committed(home, work),
  );
  const messages = [{ role: "visitor" as const, pieces: piecesOf(text) }];
  const making = make(
    plainOrder({
      rank: "job",
      speaker: { connection, model },
      messages,
      settings: { maxOutput },
      traffic,
      guards: candidate.content.guards,
      own: [candidate.content.prompt],
    }),
    sink,
    home.means,
  );
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  try {
    const made = await making.made;
    const price = Math.round(((made.usage?.price ?? 0) + made.paidBefore) * 1_000_000);
    return { text: textOf(made.takes[0]).trim().slice(0, longestSummary), price };
  } finally {
    signal.removeEventListener("abort", stop);
    letGo?.();
  }
}
