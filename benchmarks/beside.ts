import { join } from "node:path";
import { setTimeout as rest } from "node:timers/promises";
import Sqlite from "better-sqlite3";
import { largestPart } from "@/contract/jobs";
import { piecesOf } from "@/core/conversation/pieces";
import { ConversationStore } from "@/server/conversations/conversation-store";
import { MessageStore } from "@/server/conversations/message-store";
import { fill, wordAt } from "../scripts/filling";
import { listen, type Stream } from "./many-streams";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";

const streams = 20;
const rate = 20;
const seconds = 25;
const conversations = 400;
const messagesEach = 50;
const turnsForetold = 1_500;
const messagesDeleted = 5_000;
/** Milliseconds that an event loop may stand. */
const longestStall = 20;
const message = "When does the boat leave?";

/** Live streams while a history is moved and searched, and while the bench tends its conversations, against the same streams by themselves. */
export async function besideRows(rig: Rig): Promise<Row[]> {
  const replies = await rig.makeApp(rate, rate * seconds);
  const slug = new URL(replies).pathname.split("/")[3] ?? "";
  const file = await filledFile(rig, slug, rig.idOf(replies));
  const [long, wide] = filledLines(rig, rig.idOf(replies));
  const all = () => Promise.all(Array.from({ length: streams }, () => listen(replies, JSON.stringify({ message }))));
  await all();
  const alone = gapsOf(await all());
  const job = await begun(rig, slug, file);
  const moved = [stored(rig, job), searched(rig, slug), exported(rig, slug)];
  const besideMoving = await Promise.all([all().then(gapsOf), steadyStall(rig), ...moved]);
  const tended = [foretold(rig, long), thinned(rig), branchDeleted(rig, wide)];
  const besideTending = await Promise.all([all().then(gapsOf), steadyStall(rig), ...tended]);
  return [
    ...rowsOf("a history is imported, exported and searched", besideMoving, alone),
    ...rowsOf(
      `saying ${turnsForetold} turns again is foretold, dispatches are thinned and a branch of ${messagesDeleted} messages is deleted`,
      besideTending,
      alone,
    ),
  ];
}

function rowsOf(work: string, [beside, stall]: [number[], number, ...unknown[]], alone: number[]): Row[] {
  const row = (what: string, ratio: number, bar: number): Row => ({
    what: `${streams} streams while ${work}: ${what}`,
    ratio,
    bar,
    isMost: true,
  });
  const last = (gaps: number[]) => gaps.at(-1) ?? Number.NaN;
  return [
    row("99th percentile gap ÷ without", quantile(beside, 0.99) / quantile(alone, 0.99), 1.5),
    row("longest gap ÷ without", last(beside) / last(alone), 1.5),
    row(`longest stand of the event loop ÷ ${longestStall} ms`, stall / longestStall, 1),
  ];
}

/** For how long the event loop stands at most while all streams are under way: not as they begin and end. */
async function steadyStall(rig: Rig): Promise<number> {
  await rest(2_000);
  await rig.watch();
  await rest((seconds - 5) * 1_000);
  return rig.stall();
}

/** Fills an app in the folder of the running server, and gives its history as a file. */
async function filledFile(rig: Rig, slug: string, app: string): Promise<Buffer> {
  const database = new Sqlite(join(rig.folder, "finch.sqlite"));
  database.pragma("busy_timeout = 5000");
  const home = { database, conversations: new ConversationStore(database), messages: new MessageStore(database) };
  fill(home, app, conversations, messagesEach);
  database.close();
  return Buffer.from(await (await fetch(`${rig.app}/api/bench/apps/${slug}/export?as=jsonl`)).arrayBuffer());
}

/** The conversation of a long line, and the first message of a branch of another conversation. */
function filledLines(rig: Rig, app: string): [long: string, branch: string] {
  const database = new Sqlite(join(rig.folder, "finch.sqlite"));
  database.pragma("busy_timeout = 5000");
  const home = { database, conversations: new ConversationStore(database), messages: new MessageStore(database) };
  const [long = ""] = fill(home, app, 1, 2 * turnsForetold);
  const [conversation = ""] = fill(home, app, 1, messagesDeleted);
  // a line can be deleted where there is another beside it
  home.messages.addVisitorMessage({ conversation, parent: undefined, pieces: piecesOf(message), now: Date.now() });
  const branch = database
    .prepare("SELECT id FROM messages WHERE conversation_id = ? AND depth = 0 ORDER BY id LIMIT 1")
    .pluck()
    .get(conversation) as string;
  database.close();
  return [long, branch];
}

/** What saying a long line again would take, asked for a few times while all streams are under way. */
async function foretold(rig: Rig, conversation: string): Promise<void> {
  for (let time = 0; time < 3; time += 1) {
    await rest((seconds * 1_000) / 8);
    await bench(rig, "GET", `conversations/${conversation}/said-again`);
  }
}

async function thinned(rig: Rig): Promise<void> {
  await rest((seconds * 1_000) / 2);
  await bench(rig, "POST", "dispatches/thin", { olderThanDays: 0 });
}

async function branchDeleted(rig: Rig, branch: string): Promise<void> {
  await rest((seconds * 1_000) / 1.5);
  await bench(rig, "DELETE", `messages/${branch}`);
}

/** An import that was sent and checked; gives its job. */
async function begun(rig: Rig, slug: string, file: Buffer): Promise<string> {
  const { id } = await bench<{ id: string }>(rig, "POST", `apps/${slug}/imports`, {
    name: "history.jsonl",
    as: "jsonl",
    bytes: file.length,
  });
  for (let from = 0; from < file.length; from += largestPart) {
    const part = new Uint8Array(file.subarray(from, from + largestPart));
    const sent = await fetch(`${rig.app}/api/bench/jobs/${id}/parts?from=${from}`, { method: "PUT", body: part });
    if (!sent.ok) throw new Error(await sent.text());
  }
  await until(rig, id, (job) => job.state !== "running");
  return id;
}

async function stored(rig: Rig, job: string): Promise<void> {
  await bench(rig, "POST", `jobs/${job}/store`);
  await until(rig, job, ({ state }) => state === "done");
}

/** Ten searches, from common to rare, spread over the time. */
async function searched(rig: Rig, slug: string): Promise<void> {
  for (let at = 0; at < 10; at += 1) {
    await new Promise((resolve) => setTimeout(resolve, (seconds * 1_000) / 12));
    await bench(rig, "GET", `apps/${slug}/conversations?words=${wordAt(3 ** (at % 7))}`);
  }
}

async function exported(rig: Rig, slug: string): Promise<void> {
  await (await fetch(`${rig.app}/api/bench/apps/${slug}/export?as=jsonl`)).arrayBuffer();
}

interface JobStanding {
  state: string;
  problem: object | null;
}

async function until(rig: Rig, id: string, holds: (job: JobStanding) => boolean): Promise<void> {
  for (;;) {
    const job = await bench<JobStanding>(rig, "GET", `jobs/${id}`);
    if (job.state === "failed") throw new Error(JSON.stringify(job.problem));
    if (holds(job)) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

async function bench<T>(rig: Rig, method: string, path: string, body?: object): Promise<T> {
  const response = await fetch(`${rig.app}/api/bench/${path}`, { method, body: body && JSON.stringify(body) });
  if (!response.ok) throw new Error(await response.text());
  return (response.status === 204 ? undefined : await response.json()) as T;
}

function gapsOf(heard: Stream[]): number[] {
  return heard.flatMap(({ at }) => at.slice(1).map((moment, place) => moment - (at[place] ?? 0))).sort((a, b) => a - b);
}
