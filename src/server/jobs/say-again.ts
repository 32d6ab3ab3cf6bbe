import type { SayAgainEstimate } from "@/contract/jobs";
import type { AskedPiece } from "@/contract/replies";
import type { AppMessage } from "@/core/conversation/message";
import { type Piece, textOf } from "@/core/conversation/pieces";
import type { Work } from "@/core/jobs/work";
import { placesFor } from "@/core/provider/places";
import type { StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import { lineOf } from "../archive/foretelling";
import type { HasReader } from "../archive/threads";
import type { HasBranches } from "../conversations/branch-store";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { tipFor } from "../entrance/access";
import { Refusal, refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import { type AskedBy, type AskNeeds, ask } from "../replies/ask";
import { countsOfWholes } from "../sources/whole";
import { summariserOf } from "../summaries/next-step";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/** What of the process is used here. */
export type SayAgainNeeds = AskNeeds & HasChanges & HasReader & HasJobs & HasSteps & HasRunner;

type SayAgain = Extract<Work, { kind: "say-again" }>;

const bench = { kind: "bench" } as const;
/** Replies in a row that may fail before it gives up. */
const mostFailures = 3;
/** Messages that are read before other work has its turn. */
const readAtOnce = 20;

/**
 * What it would take to say a line again on the draft. It is reckoned in the reading thread, since a long line takes
 * seconds.
 */
export async function estimateSayingAgain(
  home: SayAgainNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  through: string | undefined,
): Promise<SayAgainEstimate> {
  const { draft: content } = app;
  const { connection, model } = chosenFor(home, content);
  const { memory } = content;
  const summariser = memory.kind === "summary" ? summariserOf(home, content, memory) : undefined;
  return home.reader.call("foretell", {
    end: endOf(home, conversation, through),
    content,
    by: { provider: connection.slug, model: model.name },
    model,
    places: placesFor(connection.profile, model),
    summariser: summariser && !("kind" in summariser) ? summariser.model : null,
    wholes: countsOfWholes(home, content),
    now: Date.now(),
  });
}

/** Begins to say a line again. @param mostPrice what it may cost; undefined for any price */
export function beginSayingAgain(
  home: SayAgainNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  { through, mostPrice }: { through?: string; mostPrice?: number },
): StoredJob {
  chosenFor(home, app.draft);
  const end = endOf(home, conversation, through);
  const now = Date.now();
  const revision = home.apps.fix(app.id, app.draftHash, now);
  const opening = conversation.title ?? conversation.opening;
  const work: SayAgain = { kind: "say-again", of: conversation.id, through: end, opening, revision };
  const job = home.jobs.add(app.id, work, mostPrice ?? null, now);
  home.jobs.setDone(job.id, 0, home.messages.message(end)?.turn ?? 0, now);
  home.runner.start(job.id);
  return home.jobs.byId(job.id) as StoredJob;
}

/** A step: one message of the visitor's, and its turn. */
interface Saying {
  message: string;
  turn: number;
}

/** Says what is left of a line, one message after another; after a restart from where it was. */
export async function runSayAgain(
  home: SayAgainNeeds,
  { id, app: appId, mostPrice }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  if (home.steps.standing(id).of === 0) home.steps.add(id, await sayingsOf(home, workOf(home, id).through));
  const gaveUp = new AbortController();
  let failures = 0;
  await doSteps<Saying>(home, {
    job: id,
    mostPrice,
    atOnce: 1,
    signal: AbortSignal.any([signal, gaveUp.signal]),
    tell: () => home.changes.tellJobs(),
    async work({ work: saying }, stopped) {
      const before = madeBy(home, id)?.price ?? 0;
      const answered = await said(home, app, id, saying, stopped);
      const problem = answered?.state === "failed" ? answered.facts.problem : undefined;
      failures = problem ? failures + 1 : 0;
      if (problem && failures >= mostFailures) gaveUp.abort(new Refusal(problem));
      return { of: answered?.id, price: (madeBy(home, id)?.price ?? 0) - before };
    },
  });
  return "done";
}

/** Says one message again, unless it was said already; gives the reply. What a stop cut off is asked for once more. */
async function said(
  home: SayAgainNeeds,
  app: StoredApp,
  job: string,
  { message: id, turn }: Saying,
  signal: AbortSignal,
): Promise<AppMessage | undefined> {
  const message = home.messages.message(id) ?? refuse("not-found", "The message was deleted.");
  const work = workOf(home, job);
  const into = madeBy(home, job);
  const last = into?.tip ? home.messages.message(into.tip) : undefined;
  const isThere = (last?.turn ?? 0) >= turn;
  const isCutOff = last?.role === "app" && last.turn === turn && last.state === "interrupted";
  if (isThere && !isCutOff) return undefined;
  const candidate =
    home.apps.revision(app.id, work.revision) ?? refuse("not-found", `${app.name} has no revision ${work.revision}.`);
  const by: AskedBy = { asker: bench, origin: "job", client: null, candidate };
  const call = isCutOff
    ? { again: last.parent ?? "" }
    : { message: message.pieces.map(askedPiece), ...(into ? { conversation: into.id } : {}) };
  const { reply } = ask(home, app, by, call, ({ head }) => {
    if (into) return;
    home.conversations.madeBy(head.conversation, job, work.of);
    home.jobs.setWork(job, { ...work, into: head.conversation }, Date.now());
  });
  await endedOrStopped(home, reply, signal);
  const answered = home.messages.message(reply);
  return answered?.role === "app" ? answered : undefined;
}

/** The conversation that comes of a job; none before its first message was said. */
function madeBy(home: HasConversations & HasJobs, job: string): StoredConversation | undefined {
  const { into } = workOf(home, job);
  if (into === undefined) return undefined;
  return home.conversations.byId(into) ?? refuse("not-found", "The conversation that comes of it was deleted.");
}

/** The visitor's messages of a line, read some at a time. */
async function sayingsOf({ messages }: HasMessages, end: string): Promise<Saying[]> {
  const sayings: Saying[] = [];
  for (const { id, role, turn } of lineOf(messages, end)) {
    if (role === "visitor") sayings.push({ message: id, turn });
    if (sayings.length % readAtOnce === 0) await new Promise(setImmediate);
  }
  return sayings;
}

/** Waits for a reply; stops it where the job is. */
async function endedOrStopped({ hub }: HasHub, reply: string, signal: AbortSignal): Promise<void> {
  const stop = () => void hub.stop(reply);
  signal.addEventListener("abort", stop);
  try {
    await hub.ended(reply);
  } finally {
    signal.removeEventListener("abort", stop);
  }
  signal.throwIfAborted();
}

function workOf({ jobs }: HasJobs, id: string): SayAgain {
  const work = jobs.byId(id)?.work;
  if (work?.kind !== "say-again") refuse("not-found", `There is no job ${id}.`);
  return work;
}

function endOf(
  { branches, conversations }: HasConversations & HasBranches,
  conversation: StoredConversation,
  through: string | undefined,
): string {
  const end = through === undefined ? tipFor(bench, conversation) : branches.endOf(through).id;
  if (end === null || conversations.conversationOf(end)?.id !== conversation.id)
    refuse("not-found", "There is no such line in this conversation.");
  return end;
}

/** A piece of a visitor's message as it is asked with. */
function askedPiece(piece: Piece): AskedPiece {
  if (piece.kind === "linked") return piece;
  if (piece.kind === "picture") return { kind: "picture", file: piece.file };
  return { kind: "text", text: textOf({ pieces: [piece] }) };
}
