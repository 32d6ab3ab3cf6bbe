import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import {
  askForDigest,
  coverOf,
  type Digest,
  type DigestStretch,
  digestBlocks,
  longestDigest,
  mostPasses,
  outputFor,
  stretchesOf,
  stretchFor,
} from "@/core/sources/digest";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import { Refusal, refuse } from "../ground/refusal";
import type { HasDocuments } from "../sources/document-store";
import type { HasSources } from "../sources/source-store";
import type { AnswerNeeds } from "../trials/answer";
import { draftSays } from "./draft-says";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/**
 * Makes a digest of a document that goes along whole, pass by pass, a step for each stretch. What a stop of the process
 * leaves is gone on with from the stretches that are made. With its end the draft has the digest.
 */

/** What of the process is used here. */
export type DigestNeeds = AnswerNeeds & HasApps & HasSources & HasDocuments & HasJobs & HasSteps & HasRunner;

/** Stretches that are made smaller at once. */
const atOnce = 3;

type DigestWork = Extract<Work, { kind: "digest" }>;

/** A stretch that is made smaller: which of its pass, from 1. */
interface StepWork extends DigestStretch {
  pass: number;
  at: number;
  of: number;
}

/** What it was made to, and whether the model met its output limit. */
interface Smaller {
  text: string;
  isCut: boolean;
}

/** Has a digest made of a document that the draft has go along whole. @throws {Refusal} */
export function beginDigest(home: DigestNeeds, app: StoredApp, id: string, within: number): StoredJob {
  const named = app.draft.sources?.documents.find((each) => each.source === id);
  const source = home.sources.byId(id);
  if (!named?.whole || source?.app !== app.id)
    refuse("conflict", "The draft has no such document go along whole.", { advice: "Have it go along whole first." });
  const hash = named.version ?? source.hash;
  if (home.documents.find(hash)?.readAt == null)
    refuse("conflict", `${source.title} is not read yet.`, { advice: "Wait until it is." });
  const isOfIt = ({ work }: StoredJob) => work.kind === "digest" && work.source === id;
  if (home.jobs.running().some((job) => job.app === app.id && isOfIt(job)))
    refuse("conflict", `A digest of ${source.title} is being made.`, { advice: "Wait for it, or stop it." });
  const { model } = chosenFor(home, app.draft);
  const before = home.jobs.lastOf(app.id, "digest");
  if (before && before.state !== "done" && isSame(before.work, { source: id, hash, within })) {
    // what was made of it is not paid for once more
    home.steps.retry(before.id);
    home.runner.start(before.id);
    return before;
  }
  const stretches = stretchesOf(digestBlocks(home.documents.blocks(hash)), within, stretchFor(model.window));
  if (stretches.length === 0) refuse("conflict", `${source.title} holds no text.`);
  const work: DigestWork = { kind: "digest", source: id, title: source.title, hash, within, pass: 1 };
  const job = home.jobs.add(app.id, work, null, Date.now());
  home.steps.add(job.id, stepsOf(stretches, 1));
  home.runner.start(job.id);
  return job;
}

function isSame(work: Work, { source, hash, within }: Pick<DigestWork, "source" | "hash" | "within">): boolean {
  return work.kind === "digest" && work.source === source && work.hash === hash && work.within === within;
}

/** Makes what is left of a digest. @throws {Refusal} where a stretch can't be made smaller */
export async function runDigest(home: DigestNeeds, job: StoredJob, signal: AbortSignal): Promise<"done"> {
  for (;;) {
    const app = home.apps.byId(job.app) ?? refuse("not-found", "The app was deleted.");
    const work = home.jobs.byId(job.id)?.work as DigestWork;
    const chosen = chosenFor(home, app.draft);
    await doSteps<StepWork>(home, {
      job: job.id,
      mostPrice: null,
      atOnce,
      signal,
      tell() {
        home.changes.tellJobs();
        home.changes.tell(app.slug);
      },
      work: async ({ work: stretch }, aborted) => madeSmaller(home, app, job.id, work.title, stretch, aborted),
    });
    const made = madeIn(home, job.id);
    const last = made.filter(({ work: { pass } }) => pass === work.pass).map(({ of }) => of.text);
    if (work.pass >= mostPasses || tokensOf(last) <= work.within || last.length === 1) {
      takeDigest(home, app, work, last.join("\n\n"), made);
      return "done";
    }
    const stretches = stretchesOf(last, work.within, stretchFor(chosen.model.window));
    home.database
      .transaction(() => {
        home.steps.append(job.id, stepsOf(stretches, work.pass + 1));
        home.jobs.setWork(job.id, { ...work, pass: work.pass + 1 }, Date.now());
      })
      .immediate();
  }
}

function stepsOf(stretches: readonly DigestStretch[], pass: number): StepWork[] {
  return stretches.map((stretch, at) => ({ ...stretch, pass, at: at + 1, of: stretches.length }));
}

/** What came of all stretches. @throws {Refusal} why one could not be made smaller */
function madeIn(home: HasSteps, job: string): { work: StepWork; of: Smaller }[] {
  return home.steps.outcomes<StepWork, Smaller>(job).map((outcome) => {
    if (outcome.kind === "done") return outcome;
    const { detail, advice, kind } = outcome.problem;
    throw new Refusal(problem(kind, `Part ${outcome.work.at} of ${outcome.work.of}: ${detail}`, { advice }));
  });
}

async function madeSmaller(
  home: DigestNeeds,
  app: StoredApp,
  job: string,
  title: string,
  stretch: StepWork,
  signal: AbortSignal,
): Promise<{ of: Smaller; price: number }> {
  const { at, of, words } = stretch;
  const asked = {
    purpose: "digest",
    words: askForDigest(title, stretch, at, of),
    maxOutput: outputFor(words),
  } as const;
  const { text, isCut, price } = await draftSays(home, app, job, asked, signal);
  if (text.trim() === "") throw new Refusal(problem("empty", "The model answered nothing."));
  return { of: { text: text.trim(), isCut }, price };
}

/** Has the draft's document go along by its digest, where it still goes along whole. */
function takeDigest(
  home: DigestNeeds,
  { id, slug }: StoredApp,
  { source, hash, pass }: DigestWork,
  text: string,
  made: { work: StepWork; of: Smaller }[],
): void {
  const app = home.apps.byId(id);
  const { sources } = app?.draft ?? {};
  if (!app || !sources) return;
  const document = home.documents.find(hash);
  const digest: Digest = {
    of: hash,
    text: text.slice(0, longestDigest),
    ...coverOf(home.documents.blocks(hash), document?.parts ?? null),
    unread: document?.unread ?? [],
    stretches: made.filter(({ work }) => work.pass === 1).length,
    passes: pass,
    cut: made.filter(({ of }) => of.isCut).length,
  };
  const documents = sources.documents.map((each) =>
    each.source === source && each.whole ? { ...each, whole: { digest } } : each,
  );
  const changed = home.apps.setDraft(app, { ...app.draft, sources: { ...sources, documents } }, Date.now());
  home.changes.tellApp(slug, changed.draftHash);
}

function tokensOf(texts: readonly string[]): number {
  return texts.reduce((sum, text) => sum + rawTokens(countsOf(text)), 0);
}
