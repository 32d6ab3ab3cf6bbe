import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { cutOf } from "@/core/sources/sources";
import { servedBy } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasDatabase } from "../database/database";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { HasDocuments, StoredDocument } from "../sources/document-store";
import type { CuttingOf, HasPassages } from "../sources/passage-store";
import type { DocumentReader } from "../sources/reading";
import type { HasSources, StoredSource } from "../sources/source-store";
import type { HasVisitorDocuments } from "../sources/visitor-document-store";
import { gently } from "./gently";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import { type VectorsNeeds, wantVectors } from "./vectors-job";

/** What of the process is used here. */
export type ReadingNeeds = HasDatabase &
  HasApps &
  HasSources &
  HasDocuments &
  HasPassages &
  HasJobs &
  HasHub &
  HasChanges &
  HasVisitorDocuments &
  VectorsNeeds &
  HasRunner;

/** Something that is to be done before a document can be answered from: one of an app, or of a visitor. */
type Due = { source: Pick<StoredSource, "id" | "title"> } & (
  | { kind: "read"; document: StoredDocument }
  | { kind: "cut"; document: StoredDocument; cutting: CuttingOf }
);

/** Lets one after the other in: one document is read at a time, whichever app wants it. */
export class OneByOne {
  private last: Promise<void> = Promise.resolve();

  /** Waits for one's turn; gives how to leave. @throws what `signal` is aborted with */
  async enter(signal: AbortSignal): Promise<() => void> {
    const before = this.last;
    let leave = () => {};
    const own = new Promise<void>((resolve) => {
      leave = resolve;
    });
    this.last = before.then(() => own);
    try {
      await new Promise<void>((resolve, reject) => {
        signal.throwIfAborted();
        signal.addEventListener("abort", () => reject(signal.reason), { once: true });
        void before.then(resolve);
      });
    } catch (error) {
      leave();
      throw error;
    }
    return leave;
  }
}

/**
 * Has documents of an app read and cut, where some are not; one that is at it already takes what is newly due.
 * @param goesOn whether those that were stopped are gone on with, too
 */
export function wantReading(home: ReadingNeeds, app: StoredApp, goesOn?: true): void {
  const running = home.jobs.running().find((job) => job.app === app.id && job.work.kind === "reading");
  if (running) {
    if (goesOn) home.jobs.setWork(running.id, { ...running.work, goesOn } as Reading, Date.now());
    return;
  }
  const due = nextDue(home, app, (source) => goesOn === true || !isBegun(home, source));
  // what is cut is ready to have its vectors made
  if (!due) {
    wantVectors(home, app);
    return;
  }
  const work: Reading = {
    kind: "reading",
    title: due.source.title,
    source: due.source.id,
    phase: phases[due.kind],
    goesOn,
  };
  const job = home.jobs.add(app.id, work, null, Date.now());
  home.runner.start(job.id);
}

type Reading = Extract<Work, { kind: "reading" }>;

const phases = { read: "reading", cut: "cutting" } as const;

/** Whether some of a document was read, and not all: that was stopped. */
function isBegun({ documents }: HasDocuments, { hash }: StoredSource): boolean {
  return documents.partsRead(hash) > 0;
}

/** Reads and cuts what is due, one after the other. What is stopped is gone on with from the part where it was. */
export async function runReading(
  home: ReadingNeeds,
  job: StoredJob,
  signal: AbortSignal,
  { turns, reader }: { turns: OneByOne; reader: DocumentReader },
): Promise<"done"> {
  for (let visitorsFirst = true; ; visitorsFirst = !visitorsFirst) {
    // one document at a time: other apps, and the developer's own beside those of visitors, are not kept waiting
    const leave = await turns.enter(signal);
    try {
      signal.throwIfAborted();
      const app = home.apps.byId(job.app);
      const work = home.jobs.byId(job.id)?.work as Reading;
      // what it was at when the process ended, it goes on with
      const isWanted = (source: StoredSource) => work.goesOn || source.id === work.source || !isBegun(home, source);
      const due = app && nextDue(home, app, isWanted, visitorsFirst);
      if (!due) {
        if (app) wantVectors(home, app);
        return "done";
      }
      home.jobs.setWork(
        job.id,
        { ...work, title: due.source.title, source: due.source.id, phase: phases[due.kind] },
        Date.now(),
      );
      await whileKept(home, due.document.hash, () =>
        due.kind === "read" ? readDue(home, reader, job.id, due, signal) : cutDue(home, reader, due, signal),
      );
      home.changes.tell(app.slug);
    } finally {
      leave();
    }
  }
}

/**
 * What is due next for an app: its draft, what is live and what is previewed are to be answered from.
 * @param isWanted whether a document that is not read is to be
 * @param visitorsFirst whether what is due of visitors' documents goes before the app's own
 */
function nextDue(
  home: Pick<ReadingNeeds, "apps" | "sources" | "documents" | "passages" | "visitorDocuments">,
  app: StoredApp,
  isWanted: (source: StoredSource) => boolean,
  visitorsFirst = true,
): Due | undefined {
  const served = servedBy(home, app);
  const contents = [app.draft, ...served];
  const own = dueOfVisitors(home, app, served);
  if (own && visitorsFirst) return own;
  for (const source of home.sources.ofApp(app.id)) {
    const wanted = new Set([source.hash, ...versionsIn(contents, source.id)]);
    for (const hash of wanted) {
      const document = home.documents.find(hash);
      if (!document || document.problem) continue;
      if (document.readAt === null) {
        if (isWanted(source)) return { kind: "read", source, document };
        continue;
      }
      for (const content of contents) {
        const cutting = cuttingOf(content, source, hash);
        if (cutting && !home.passages.cutting(cutting)?.isWhole) return { kind: "cut", source, document, cutting };
      }
    }
  }
  return own;
}

/** What is due of the documents of an app's visitors, who are answered by what is live and what is previewed. */
function dueOfVisitors(
  home: Pick<ReadingNeeds, "documents" | "passages" | "visitorDocuments">,
  app: StoredApp,
  served: readonly Content[],
): Due | undefined {
  const cuts = served.map(({ sources }) => cutOf(sources));
  const own = home.visitorDocuments.due(app.id, cuts);
  const document = own && home.documents.find(own.hash);
  if (!document) return undefined;
  // what a visitor calls a document is the visitor's to know
  const source = { id: own.id, title: "A visitor's document" };
  if (document.readAt === null) return { kind: "read", source, document };
  const cut = cuts.find((each) => !home.passages.cutting({ hash: own.hash, ...each })?.isWhole);
  return cut && { kind: "cut", source, document, cutting: { hash: own.hash, ...cut } };
}

function versionsIn(contents: readonly Content[], source: string): string[] {
  return contents.flatMap(({ sources }) =>
    (sources?.documents ?? []).flatMap((each) => (each.source === source && each.version ? [each.version] : [])),
  );
}

/** How a content wants a version of a document to be cut; undefined where it does not answer from that. */
function cuttingOf({ sources }: Content, source: StoredSource, hash: string): CuttingOf | undefined {
  const named = sources?.documents.find((each) => each.source === source.id);
  if (!sources || !named || (named.version ?? source.hash) !== hash) return undefined;
  return { hash, ...cutOf(sources) };
}

/** Does something with a document; where that fails since it was forgotten meanwhile, there is nothing more to do. */
async function whileKept({ documents }: HasDocuments, hash: string, work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    if (documents.find(hash)) throw error;
  }
}

async function readDue(
  home: ReadingNeeds,
  reader: DocumentReader,
  job: string,
  due: Due,
  signal: AbortSignal,
): Promise<void> {
  const { document } = due;
  const { hash, kind } = document;
  const { documents, jobs, changes } = home;
  let parts = document.parts ?? 0;
  const from = documents.partsRead(hash) + 1;
  const progress = (done: number) => {
    jobs.setDone(job, done, parts, Date.now());
    changes.tellJobs();
  };
  const read = await reader.read(
    { path: documents.pathOf(hash), kind, from },
    {
      parts(count) {
        parts = count;
        documents.setParts(hash, count);
        progress(from - 1);
      },
      async part(place, blocks, unread) {
        await gently(home, () => documents.addPart(hash, place, blocks, unread));
        progress(place);
      },
    },
    signal,
  );
  if (read.ok) documents.setRead(hash, Date.now());
  else
    documents.setProblem(
      hash,
      // it may be another's by another name
      problem("bad-request", `The document ${read.why}.`, {
        advice: "Take another copy of it, or save it in another form.",
      }),
    );
}

async function cutDue(
  home: ReadingNeeds,
  reader: DocumentReader,
  { cutting, source }: Extract<Due, { kind: "cut" }>,
  signal: AbortSignal,
): Promise<void> {
  home.changes.tellJobs();
  await cutDocument(home, reader, cutting, source.title, signal);
}

/** Whether an app wants a document cut like that: its draft, what is live or what is previewed. */
export function isCutFor(home: Pick<ReadingNeeds, "apps" | "sources">, app: StoredApp, wanted: CuttingOf): boolean {
  const contents = [app.draft, ...servedBy(home, app)];
  return home.sources.ofApp(app.id).some((source) =>
    contents.some((content) => {
      const cutting = cuttingOf(content, source, wanted.hash);
      return cutting && cutting.size === wanted.size && cutting.overlap === wanted.overlap;
    }),
  );
}

/** Cuts a document that is read. @throws what `signal` is aborted with */
export async function cutDocument(
  home: Pick<ReadingNeeds, "documents" | "passages" | "hub" | "database">,
  reader: DocumentReader,
  wanted: CuttingOf,
  title: string,
  signal: AbortSignal,
): Promise<void> {
  const { documents, passages } = home;
  const cutting = passages.begin(wanted);
  let count = 0;
  let tokens = 0;
  const { size, overlap } = wanted;
  const read = await reader.cut(
    documents.blocks(wanted.hash),
    { size, overlap },
    async (more) => {
      await gently(home, () => passages.add(cutting, count + 1, more.passages));
      count += more.passages.length;
      tokens += more.tokens;
    },
    signal,
  );
  if (!read.ok) throw new Error(`${title} ${read.why}, when it was cut.`);
  passages.finish(cutting, count, tokens);
}
