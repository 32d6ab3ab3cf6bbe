import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { LastEvent } from "@/core/reply/events";
import { askForProposal, proposalFrom } from "@/core/sources/retrieval";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { StoredApp } from "../apps/app-store";
import { holdForCalls, mostOf } from "../apps/budget";
import { chosenFor } from "../apps/candidate";
import { keepingSink } from "../dispatches/keeping-sink";
import { Refusal, refuse } from "../ground/refusal";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import { cuttingsFor } from "../sources/finding";
import type { StoredPassage } from "../sources/passage-store";
import type { HasRetrieval } from "../sources/retrieval-store";
import type { AnswerNeeds } from "../trials/answer";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/** What of the process is used here. */
export type ProposingNeeds = AnswerNeeds & HasRetrieval & HasJobs & HasSteps & HasRunner;

/** Tokens that a proposal may have. */
const maxOutput = 300;
/** Characters of a passage below which it holds too little to ask for. */
const leastText = 30;
const atOnce = 4;

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/** What is asked of the model for one question: a passage, by the document that it is of. */
interface OfPassage {
  passage: number;
  source: string;
}

/**
 * Has the model of an app's draft propose questions: of passages all over its documents, one of each.
 * @throws {Refusal} `conflict` where there are no passages
 */
export function beginProposing(home: ProposingNeeds, app: StoredApp, count: number): StoredJob {
  const { ready } = cuttingsFor(home, app.draft);
  const all = [...ready].flatMap(([cutting, { source }]) =>
    home.passages
      .ofCutting(cutting)
      .filter(({ text }) => text.length >= leastText)
      .map(({ id }): OfPassage => ({ passage: id, source: source.id })),
  );
  if (all.length === 0)
    refuse("conflict", `${app.name} has no passages that are read and cut.`, { advice: "Wait until they are." });
  chosenFor(home, app.draft);
  const step = all.length / Math.min(count, all.length);
  const chosen = Array.from({ length: Math.min(count, all.length) }, (_, at) => all[Math.floor(at * step)]);
  const job = home.jobs.add(app.id, { kind: "proposing" }, null, Date.now());
  home.steps.add(job.id, chosen);
  home.runner.start(job.id);
  return job;
}

/** Asks the model about each passage; what it proposes waits to be weeded. */
export async function runProposing(
  home: ProposingNeeds,
  { id: job, app: appId }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  await doSteps<OfPassage>(home, {
    job,
    mostPrice: null,
    atOnce,
    signal,
    tell() {
      home.changes.tellJobs();
      home.changes.tell(app.slug);
    },
    async work({ work: { passage: id, source } }, aborted) {
      const passage = home.passages.byId(id);
      // its document may be cut anew, or gone
      if (!passage || !home.sources.byId(source)) return { price: 0 };
      const { text, price } = await proposed(home, app, job, passage, aborted);
      const proposal = proposalFrom(text, passage.text);
      if (proposal) home.retrieval.add(appId, { ...proposal, source, comes: "proposed", isAsked: false }, Date.now());
      return { price };
    },
  });
  return "done";
}

/** Has the model say something of a passage. @throws {Refusal} where it can't */
async function proposed(
  home: ProposingNeeds,
  app: StoredApp,
  job: string,
  passage: StoredPassage,
  signal: AbortSignal,
): Promise<{ text: string; price: number }> {
  const { connection, model } = chosenFor(home, app.draft);
  const asked = askForProposal([...passage.place.headings, passage.text].join("\n"));
  const most = mostOf([model], rawTokens(countsOf(asked)), maxOutput, 1);
  const [letGo] = holdForCalls(home, app, [most], model.price.currency, Date.now(), true);
  const spentOn = { app: app.id, revision: app.liveRevision, content: app.draftHash, origin: "job" };
  const { sink } = keepingSink(home, { purpose: "question", owner: job, conversation: null, spentOn }, (work) =>
    home.database.transaction(work).immediate()?.(),
  );
  const messages = [{ role: "visitor" as const, pieces: piecesOf(asked) }];
  const settings = { maxOutput };
  const making = make(
    plainOrder({ rank: "job", speaker: { connection, model }, messages, settings }),
    sink,
    home.means,
  );
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  if (signal.aborted) stop();
  try {
    const { usage, paidBefore, takes } = await making.made;
    signal.throwIfAborted();
    const [take] = takes;
    if (take.last.event === "problem") throw new Refusal(take.last.data);
    return { text: textOf(take), price: Math.round(((usage?.price ?? 0) + paidBefore) * 1_000_000) };
  } finally {
    signal.removeEventListener("abort", stop);
    letGo?.();
  }
}
