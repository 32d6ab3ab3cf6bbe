import { setTimeout as rest } from "node:timers/promises";
import type { Work } from "@/core/jobs/work";
import { isBelow, linksBelow, mostBelow } from "@/core/sources/below";
import type { StoredApp } from "../apps/app-store";
import { isRefusal } from "../ground/refusal";
import type { DocumentReader } from "../sources/reading";
import type { StoredSource } from "../sources/source-store";
import { type Address, addAddress } from "../sources/sources";
import type { StoredJob } from "./job-store";
import { type ReadingNeeds, wantReading } from "./reading-job";
import type { HasRunner } from "./runner";

/**
 * The pages below an address become documents: the links of its page are gone after, and those of the pages that they
 * lead to, one call at a time. What came of it is what the draft answers from, once all is had, or it was stopped.
 */

/** What of the process is used here. */
export type PagesNeeds = ReadingNeeds & HasRunner;

type Pages = Extract<Work, { kind: "pages" }>;

/** Milliseconds between two calls: whoever serves the pages has others to answer. */
const pause = 100;
/** Pages of which it is told why they could not be taken. */
const mostTold = 20;

/** Has the pages below a document's address become documents, too. @returns the job */
export function wantPages(
  home: PagesNeeds,
  app: StoredApp,
  start: StoredSource,
  { url, deep, allowsThisMachine }: Address & { deep: number },
): string {
  const work: Pages = {
    kind: "pages",
    start: url,
    deep,
    allowsThisMachine: allowsThisMachine || undefined,
    open: [{ url, level: 0 }],
    met: [url],
    sources: [start.id],
    left: [],
  };
  const { id } = home.jobs.add(app.id, work, null, Date.now());
  home.runner.start(id);
  return id;
}

/** Has one page after the other. */
export async function runPages(
  home: PagesNeeds,
  job: StoredJob,
  signal: AbortSignal,
  reader: DocumentReader,
): Promise<"done"> {
  for (;;) {
    signal.throwIfAborted();
    const work = workOf(home, job.id);
    const app = home.apps.byId(job.app);
    if (!work?.open[0] || !app) break;
    const next = await afterFirst(home, app, work, signal, reader);
    home.jobs.setWork(job.id, next, Date.now());
    home.jobs.setDone(job.id, next.sources.length, next.sources.length + next.open.length, Date.now());
    home.changes.tell(app.slug);
    home.changes.tellJobs();
    await rest(pause, undefined, { signal });
  }
  answerFromPages(home, job.id);
  return "done";
}

/** Has the draft answer from the documents that came of a job, each as it was had, and has them read. */
export function answerFromPages(home: PagesNeeds, id: string): void {
  const job = home.jobs.byId(id);
  const work = workOf(home, id);
  const app = job && home.apps.byId(job.app);
  if (!app || !work) return;
  const named = new Set(app.draft.sources?.documents.map(({ source }) => source));
  const added = work.sources.flatMap((source) => {
    const version = home.sources.byId(source)?.hash;
    return version && !named.has(source) ? [{ source, version }] : [];
  });
  if (added.length === 0) return;
  const documents = [...(app.draft.sources?.documents ?? []), ...added];
  const content = { ...app.draft, sources: { ...app.draft.sources, documents } };
  const changed = home.apps.setDraft(app, content, Date.now());
  home.changes.tellApp(app.slug, changed.draftHash);
  wantReading(home, changed);
}

function workOf({ jobs }: Pick<PagesNeeds, "jobs">, id: string): Pages | undefined {
  const work = jobs.byId(id)?.work;
  return work?.kind === "pages" ? work : undefined;
}

/** What is left once the first page that is open was had, or could not be. */
async function afterFirst(
  home: PagesNeeds,
  app: StoredApp,
  work: Pages,
  signal: AbortSignal,
  reader: DocumentReader,
): Promise<Pages> {
  const { start, deep, allowsThisMachine } = work;
  const [{ url, level }, ...open] = work.open as [Pages["open"][number], ...Pages["open"]];
  try {
    const source =
      level === 0
        ? home.sources.byId(work.sources[0] ?? "")
        : await addAddress(home, app.id, { url, allowsThisMachine }, { isWanted: (at) => isBelow(at, start), signal });
    if (!source) return { ...work, open };
    const isLeadingOn = level < deep && source.kind === "html";
    const links = isLeadingOn ? await reader.links(home.documents.pathOf(source.hash), signal) : undefined;
    const fresh = links ? linksBelow(links, url, start).filter((link) => !work.met.includes(link)) : [];
    const more = fresh.slice(0, Math.max(mostBelow + 1 - work.met.length, 0));
    return {
      ...work,
      open: [...open, ...more.map((link) => ({ url: link, level: level + 1 }))],
      met: [...work.met, ...more],
      sources: [...new Set([...work.sources, source.id])],
    };
  } catch (error) {
    signal.throwIfAborted();
    if (!isRefusal(error)) throw error;
    const left = [...work.left, { url, why: error.problem.detail }].slice(0, mostTold);
    return { ...work, open, left };
  }
}
