import { askForProposal, proposalFrom } from "@/core/sources/retrieval";
import type { StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import { refuse } from "../ground/refusal";
import { cuttingsFor } from "../sources/finding";
import type { HasRetrieval } from "../sources/retrieval-store";
import type { AnswerNeeds } from "../trials/answer";
import { draftSays } from "./draft-says";
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
      const words = askForProposal([...passage.place.headings, passage.text].join("\n"));
      const { text, price } = await draftSays(home, app, job, { purpose: "question", words, maxOutput }, aborted);
      const proposal = proposalFrom(text, passage.text);
      if (proposal) home.retrieval.add(appId, { ...proposal, source, comes: "proposed", isAsked: false }, Date.now());
      return { price };
    },
  });
  return "done";
}
