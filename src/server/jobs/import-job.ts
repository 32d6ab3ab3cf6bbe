import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { setTimeout as rest } from "node:timers/promises";
import { largestPart } from "@/contract/jobs";
import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasWriter } from "../archive/threads";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasFolder } from "../database/database";
import type { HasRemoval } from "../database/slices";
import { Refusal, refuse } from "../ground/refusal";
import type { HasHub } from "../live/hub";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";

/** What of the process is used here. */
export type ImportJobNeeds = HasFolder & HasApps & HasConversations & HasHub & HasWriter & HasJobs & HasRemoval;

type Import = Extract<Work, { kind: "import" }>;
type ImportJob = StoredJob & { work: Import };

/** How much longer a rest is than the transaction before it. */
const restFor = 2;
/** Transactions after which it is written how far it is. */
const toldEach = 10;
/** Milliseconds that a transaction is given until the next writing of live text. */
const longest = 10;
/** Transactions after which the index of words is brought together. */
const mergedEach = 3;

/** Begins an import, whose file is then sent in parts. */
export function beginImport(
  home: HasFolder & HasJobs & HasRunner,
  app: StoredApp,
  { name, as, bytes }: Pick<Import, "name" | "as" | "bytes">,
): StoredJob {
  const job = home.jobs.add(app.id, { kind: "import", name, as, bytes, phase: "sending" }, null, Date.now());
  home.jobs.setDone(job.id, 0, bytes, Date.now());
  mkdirSync(join(home.folder, "imports"), { recursive: true, mode: 0o700 });
  writeFileSync(fileOf(home, job.id), "", { mode: 0o600 });
  if (bytes === 0) home.runner.start(job.id);
  return home.jobs.byId(job.id) as StoredJob;
}

/** Takes the next part of a file; after the last one it is checked. @throws {Refusal} `conflict` where another part is due */
export async function takePart(
  home: HasFolder & HasJobs & HasRunner,
  id: string,
  from: number,
  request: Request,
): Promise<StoredJob> {
  const part = await bytesOf(request);
  const { work } = importAt(home, id, "sending");
  const file = fileOf(home, id);
  const { size } = statSync(file);
  if (size !== from) refuse("conflict", `The next part begins at byte ${size}.`, { advice: "Go on from there." });
  if (size + part.length > work.bytes) refuse("too-large", `The file has ${work.bytes} bytes, and more came.`);
  try {
    appendFileSync(file, part);
  } catch (error) {
    // what a full disk took of it would stand before the next part
    truncateSync(file, size);
    throw error;
  }
  home.jobs.setDone(id, size + part.length, work.bytes, Date.now());
  if (size + part.length === work.bytes) home.runner.start(id);
  return home.jobs.byId(id) as StoredJob;
}

/** Stores what was checked. @throws {Refusal} `conflict` where nothing is to be stored */
export function storeImport(home: HasJobs & HasRunner, id: string): StoredJob {
  const { work } = importAt(home, id, "checked");
  // what waits in this phase is gone on with after a restart
  home.jobs.setWork(id, { ...work, phase: "storing" }, Date.now());
  home.runner.start(id);
  return home.jobs.byId(id) as StoredJob;
}

/** Lets go of a file that was being sent when the process was stopped; one that was to be stored is. */
export function letGoOfImport(home: ImportJobNeeds, { id, work }: StoredJob): boolean {
  if (work.kind !== "import") return false;
  if (work.phase === "sending") {
    undoImport(home, id);
    const why = problem("interrupted", "The server was stopped while the file was sent, and nothing was imported.", {
      advice: "Import the file once more.",
    });
    home.jobs.setState(id, "stopped", Date.now(), why);
  }
  return work.phase === "storing";
}

/**
 * Lets go of what imports left that are over or forgotten: files, and conversations that never came into sight.
 * Called at the start, before any goes on.
 */
export function sweepImports(home: HasFolder & HasConversations & HasJobs): void {
  const isNeeded = (id: string) => {
    const job = home.jobs.byId(id);
    return job?.state === "running" || job?.state === "waiting";
  };
  const folder = join(home.folder, "imports");
  for (const id of existsSync(folder) ? readdirSync(folder) : [])
    if (!isNeeded(id)) rmSync(join(folder, id), { force: true });
  home.conversations.leaveUnseen();
}

/** Checks the file of an import, or stores it once it was; what is stopped before it is all there leaves nothing behind. */
export async function runImport(
  home: ImportJobNeeds,
  job: StoredJob,
  signal: AbortSignal,
  wrote: () => void,
): Promise<"done" | "waiting"> {
  switch ((job as ImportJob).work.phase) {
    case "stored":
      return stored(home, job.id);
    case "storing":
      return store(home, job as ImportJob, signal, wrote);
    default:
      return check(home, job as ImportJob, signal);
  }
}

/** Deletes what an import stored and did not bring into sight, and its file. */
export function undoImport(home: HasFolder & HasConversations & HasRemoval, id: string): void {
  home.conversations.leaveUnseenOf(id);
  void home.removal.start();
  rmSync(fileOf(home, id), { force: true });
}

async function check(
  home: HasFolder & HasWriter & HasJobs,
  { id, work }: ImportJob,
  signal: AbortSignal,
): Promise<"waiting"> {
  home.jobs.setWork(id, { ...work, phase: "checking" }, Date.now());
  const input = { job: id, file: fileOf(home, id), as: work.as };
  for (;;) {
    const { isOver, bytes, ...checked } = await home.writer.call("check", input);
    signal.throwIfAborted();
    home.jobs.setDone(id, Math.min(bytes, work.bytes), work.bytes, Date.now());
    if (!isOver) continue;
    home.jobs.setWork(id, { ...work, phase: "checked", checked }, Date.now());
    if (checked.unfitCount === 0) return "waiting";
    rmSync(input.file, { force: true });
    const [first] = checked.unfit;
    const lines = checked.unfitCount === 1 ? "One line does" : `${checked.unfitCount} lines do`;
    throw new Refusal(
      problem("bad-request", `${lines} not fit, and nothing was imported. Line ${first?.line}: ${first?.why}.`, {
        advice: "Put the lines right, and import the file once more.",
      }),
    );
  }
}

async function store(
  home: ImportJobNeeds,
  { id, app, work, createdAt }: ImportJob,
  signal: AbortSignal,
  wrote: () => void,
): Promise<"done"> {
  const { number, content } = home.apps.latest(app);
  const candidate = { revision: number, provider: content.provider, model: content.model };
  const input = { job: id, app, file: fileOf(home, id), as: work.as, candidate, now: createdAt };
  for (let round = 0; ; round += 1) {
    const began = await calm(home);
    const { isOver, bytes } = await home.writer.call("store", input);
    signal.throwIfAborted();
    wrote();
    if (isOver || round % toldEach === 0) home.jobs.setDone(id, Math.min(bytes, work.bytes), work.bytes, Date.now());
    if (isOver) break;
    await restAfter(began);
    if (round % mergedEach === 0) await merge(home);
  }
  while (await home.writer.call("show", { job: id })) await rest(10);
  home.jobs.setWork(id, { ...work, phase: "stored" }, Date.now());
  return stored(home, id);
}

/** The end of an import, all of which is in sight. */
function stored(home: HasFolder, id: string): "done" {
  rmSync(fileOf(home, id), { force: true });
  return "done";
}

/** Brings the index of words together, until there is nothing more to do. */
async function merge(home: HasHub & HasWriter): Promise<void> {
  for (;;) {
    const began = await calm(home);
    if (!(await home.writer.call("merge", null))) return;
    await restAfter(began);
  }
}

/** Waits while text of replies is about to be written, which a transaction would hold up; gives the time after that. */
async function calm({ hub }: HasHub): Promise<number> {
  for (let wait = hub.untilCalm(longest); wait > 0; wait = hub.untilCalm(longest)) await rest(wait);
  return performance.now();
}

function restAfter(began: number): Promise<void> {
  return rest(restFor * (performance.now() - began));
}

function importAt(home: HasJobs, id: string, phase: Import["phase"]): ImportJob {
  const job = home.jobs.byId(id);
  if (job?.work.kind !== "import") refuse("not-found", `There is no import ${id}.`);
  if (job.state !== "waiting" || job.work.phase !== phase)
    refuse("conflict", `The import is ${job.state === "waiting" ? job.work.phase : job.state}.`);
  return job as ImportJob;
}

function fileOf({ folder }: HasFolder, job: string): string {
  return join(folder, "imports", job);
}

/** The bytes of a part. @throws {Refusal} `too-large` */
async function bytesOf(request: Request): Promise<Buffer> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > largestPart)
      refuse("too-large", `A part has up to ${largestPart} bytes.`, { advice: "Send the file in parts." });
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
