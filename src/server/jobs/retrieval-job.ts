import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import type { RetrievalCut, RetrievalResult } from "@/core/sources/retrieval";
import { filledSources } from "@/core/sources/sources";
import type { StoredApp } from "../apps/app-store";
import { isRefusal, refuse } from "../ground/refusal";
import { cuttingsFor } from "../sources/finding";
import type { DocumentReader } from "../sources/reading";
import type { HasRetrieval } from "../sources/retrieval-store";
import { answersIn, cutOtherwise, type RetrievingNeeds, retrieved, waysOf } from "../sources/retrieving";
import { gently } from "./gently";
import type { StoredJob } from "./job-store";
import { cutDocument, isCutFor, type OneByOne, type ReadingNeeds } from "./reading-job";
import { makeMissing } from "./vectors-job";

/** What of the process is used here. */
export type RetrievalNeeds = ReadingNeeds & RetrievingNeeds & HasRetrieval;

type Retrieval = Extract<Work, { kind: "retrieval" }>;

/**
 * Begins to ask the questions of an app on some cuts of its documents.
 * @throws {Refusal} `conflict` where there is nothing to ask, or nothing to look through
 */
export function beginRetrieval(home: RetrievalNeeds, app: StoredApp, cuts: readonly RetrievalCut[]): StoredJob {
  const { draft } = app;
  if ((draft.sources?.documents.length ?? 0) === 0)
    refuse("conflict", `${app.name} answers from no documents.`, { advice: "Add some in the Sources station." });
  const all = home.retrieval.questions(app.id).filter(({ isAsked }) => isAsked);
  const answers = answersIn(home, draft, all);
  // what stands nowhere any more can be found by nothing
  const asked = all.filter((_, at) => answers[at]);
  if (asked.length === 0)
    refuse("conflict", "There is no question whose answer stands in the documents.", { advice: "Add some questions." });
  const run = home.retrieval.begin(
    app.id,
    asked.map(({ id, question, source, quote }) => ({ id, question, source, quote })),
    cuts.filter(
      ({ size, overlap }, at) => cuts.findIndex((each) => each.size === size && each.overlap === overlap) === at,
    ),
    Date.now(),
  );
  const job = home.jobs.add(app.id, { kind: "retrieval", run }, null, Date.now());
  home.runner.start(job.id);
  return job;
}

/** Has the documents cut as is wanted, has the vectors made that are missing, and asks all questions in all ways. */
export async function runRetrieval(
  home: RetrievalNeeds,
  job: StoredJob,
  signal: AbortSignal,
  { turns, reader }: { turns: OneByOne; reader: DocumentReader },
): Promise<"done"> {
  const leave = await turns.enter(signal);
  try {
    const app = home.apps.byId(job.app) ?? refuse("not-found", "The app was deleted.");
    const { run: id } = job.work as Retrieval;
    const run = home.retrieval.run(id) ?? refuse("not-found", "What was asked is not kept any more.");
    const questions = run.asked;
    const ways = waysOf(app.draft);
    const of = run.cuts.length * ways.length * questions.length;
    const results: RetrievalResult[] = [];
    let done = 0;
    const progress = async () => {
      done += 1;
      home.jobs.setDone(job.id, done, of, Date.now());
      home.changes.tellJobs();
      // replies have their turn between two questions
      await new Promise(setImmediate);
      signal.throwIfAborted();
    };
    home.jobs.setDone(job.id, 0, of, Date.now());
    for (const cut of run.cuts) {
      const made = await cutAll(home, reader, app.draft, cut, signal);
      const failure = await vectorsFor(home, job, cutOtherwise(app.draft, cut), signal);
      for (const way of ways) {
        if (failure && way !== "words") results.push({ ...cut, way, places: [], problem: failure });
        else results.push(await retrieved(home, app.id, app.draft, { questions, cut, way }, progress));
        await gently(home, () => home.retrieval.setResults(id, results));
        home.changes.tell(app.slug);
      }
      await gently(home, () => leaveUnwanted(home, app.id, made));
    }
    return "done";
  } finally {
    leave();
  }
}

/** Cuts the documents of a draft that are read and not cut like that. @returns the cuttings that it made */
async function cutAll(
  home: RetrievalNeeds,
  reader: DocumentReader,
  draft: Content,
  cut: RetrievalCut,
  signal: AbortSignal,
): Promise<{ hash: string; size: number; overlap: number }[]> {
  const made = [];
  for (const { source: id, version } of draft.sources?.documents ?? []) {
    const source = home.sources.byId(id);
    const hash = version ?? source?.hash;
    if (!source || hash === undefined || home.documents.find(hash)?.readAt == null) continue;
    const wanted = { hash, ...cut };
    if (home.passages.cutting(wanted)?.isWhole) continue;
    signal.throwIfAborted();
    await cutDocument(home, reader, wanted, source.title, signal);
    made.push(wanted);
  }
  return made;
}

/** Has the vectors made that a content misses. @returns why they can't be */
async function vectorsFor(home: RetrievalNeeds, job: StoredJob, content: Content, signal: AbortSignal) {
  const of = content.sources?.meaning;
  if (!of) return undefined;
  try {
    await makeMissing(home, job, of, [...cuttingsFor(home, content).ready.keys()], signal);
    return undefined;
  } catch (error) {
    if (signal.aborted || !isRefusal(error)) throw error;
    const { kind, detail = "", advice } = error.problem;
    return problem(kind, detail, { advice });
  }
}

/** Lets go of cuttings that were made for this alone. Their vectors stay: they were paid for. */
function leaveUnwanted(
  home: RetrievalNeeds,
  appId: string,
  made: readonly { hash: string; size: number; overlap: number }[],
): void {
  const app = home.apps.byId(appId);
  for (const cutting of made) if (!app || !isCutFor(home, app, cutting)) home.passages.leave(cutting);
}

/** The cut of a draft. */
export function cutOf({ sources }: Content): RetrievalCut {
  const { size, overlap } = filledSources(sources ?? { documents: [] });
  return { size, overlap };
}
