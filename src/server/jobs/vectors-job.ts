import type { Work } from "@/core/jobs/work";
import { textForVector } from "@/core/sources/meaning";
import { cutOf } from "@/core/sources/sources";
import { servedBy } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasDatabase } from "../database/database";
import { Refusal } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { HasMeaning } from "../sources/by-meaning";
import { cuttingsFor } from "../sources/finding";
import {
  knownText,
  type MakingVectorsNeeds,
  makerFor,
  makeVectors,
  pointsNowhere,
  spaceFor,
} from "../sources/making-vectors";
import type { HasPassages } from "../sources/passage-store";
import type { HasSources } from "../sources/source-store";
import type { VectorModel } from "../sources/vector-store";
import type { HasVisitorDocuments } from "../sources/visitor-document-store";
import { gently } from "./gently";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";

/** What of the process is used here. */
export type VectorsNeeds = MakingVectorsNeeds &
  HasMeaning &
  HasDatabase &
  HasApps &
  HasSources &
  HasPassages &
  HasVisitorDocuments &
  HasJobs &
  HasHub &
  HasChanges;

type Vectors = Extract<Work, { kind: "vectors" }>;

/** Texts of one call. */
const together = 48;

/** Passages that one model is to make vectors of: those of the draft, of what is live and of what is previewed. */
interface Due {
  of: VectorModel;
  cuttings: number[];
}

/** Has vectors made of an app's passages, where some are missing; one that is at it already takes what is newly due. */
export function wantVectors(home: VectorsNeeds & HasRunner, app: StoredApp): void {
  if (home.jobs.running().some((job) => job.app === app.id && job.work.kind === "vectors")) return;
  const due = nextDue(home, app);
  if (!due) return;
  const job = home.jobs.add(app.id, { kind: "vectors", ...due.of }, null, Date.now());
  home.runner.start(job.id);
}

/** Lets go of the vectors that a model made, and has them made anew. */
export function makeAnew(home: VectorsNeeds & HasRunner, app: StoredApp, of: VectorModel): void {
  home.vectors.drop(of);
  home.meaning.forget(of);
  wantVectors(home, app);
}

/**
 * Makes what is missing, call by call: what is made stands at once, so that nothing is paid for twice.
 * @throws {Refusal} where the model that makes them fails
 */
export async function runVectors(home: VectorsNeeds, job: StoredJob, signal: AbortSignal): Promise<"done"> {
  for (;;) {
    signal.throwIfAborted();
    const app = home.apps.byId(job.app);
    const due = app && nextDue(home, app);
    if (!due) return "done";
    const { of, cuttings } = due;
    home.jobs.setWork(job.id, { kind: "vectors", ...of } satisfies Vectors, Date.now());
    await makeSome(home, job, of, cuttings, signal);
    const { made, passages } = home.vectors.counts(cuttings, home.vectors.space(of)?.id);
    home.jobs.setDone(job.id, made, passages, Date.now());
    home.changes.tellJobs();
    home.changes.tell(app.slug);
  }
}

/** Makes all vectors of some cuttings that are missing. @throws {Refusal} where the model that makes them fails */
export async function makeMissing(
  home: VectorsNeeds,
  job: StoredJob,
  of: VectorModel,
  cuttings: readonly number[],
  signal: AbortSignal,
): Promise<void> {
  while (home.vectors.missing(cuttings, home.vectors.space(of)?.id, 1).length > 0) {
    signal.throwIfAborted();
    await makeSome(home, job, of, cuttings, signal);
  }
}

async function makeSome(
  home: VectorsNeeds,
  job: StoredJob,
  of: VectorModel,
  cuttings: readonly number[],
  signal: AbortSignal,
): Promise<void> {
  const maker = makerFor(home, of);
  if ("kind" in maker) throw new Refusal(maker);
  const wanted = home.vectors.missing(cuttings, home.vectors.space(of)?.id, together);
  const texts = wanted.map(({ text, headings }) => textForVector(text, headings));
  // each call shows that the model is the one that made those before
  const made = await makeVectors(home, maker, [...texts, knownText], { app: job.app, signal });
  signal.throwIfAborted();
  if (made.kind === "problem") throw new Refusal(made.problem);
  const known = made.vectors.at(-1);
  if (!known) throw new Refusal(pointsNowhere);
  const space = spaceFor(home, of, known);
  if ("kind" in space) throw new Refusal(space);
  await gently(home, () =>
    home.vectors.add(
      space.id,
      // a text that points nowhere is near nothing, and keeps no other from being found
      wanted.map(({ hash }, at) => ({ hash, vector: made.vectors[at] ?? new Float32Array(space.length) })),
    ),
  );
}

function nextDue(
  home: Pick<VectorsNeeds, "apps" | "sources" | "passages" | "vectors" | "visitorDocuments">,
  app: StoredApp,
): Due | undefined {
  const served = servedBy(home, app);
  for (const content of [app.draft, ...served]) {
    const of = content.sources?.meaning;
    if (!of) continue;
    // what a draft alone would have made costs nothing for the documents of visitors
    const own = served.includes(content) ? home.visitorDocuments.cuttings(app.id, cutOf(content.sources)) : [];
    const cuttings = [...cuttingsFor(home, content).ready.keys(), ...own];
    if (home.vectors.missing(cuttings, home.vectors.space(of)?.id, 1).length > 0) return { of, cuttings };
  }
  return undefined;
}
