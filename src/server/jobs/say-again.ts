import type { SayAgainEstimate, Work } from "@/contract/jobs";
import { textOf } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import type { StoredApp } from "../apps/app-store";
import { tipFor } from "../conversations/access";
import type { StoredConversation } from "../conversations/conversation-store";
import type { Home } from "../home";
import { Refusal, refuse } from "../refusal";
import { type AskedBy, ask } from "../replies/ask";
import { chosenFor } from "../replies/candidate";
import { summariserOf } from "../summaries/next-step";
import { lineOf } from "./foretelling";
import type { StoredJob } from "./job-store";

type SayAgain = Extract<Work, { kind: "say-again" }>;

const bench = { kind: "bench" } as const;
/** Replies in a row that may fail before it gives up. */
const mostFailures = 3;

/**
 * What it would take to say a line again on the draft. It is reckoned in the reading thread, since a long line takes
 * seconds.
 */
export async function estimateSayingAgain(
  home: Home,
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
    summariser: summariser && !("kind" in summariser) ? summariser.model : null,
    now: Date.now(),
  });
}

/** Begins to say a line again. @param mostPrice what it may cost; undefined for any price */
export function beginSayingAgain(
  home: Home,
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

/** Says what is left of a line, one message after another; after a restart from where it was. */
export async function runSayAgain(
  home: Home,
  { id, app: appId, mostPrice, of }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  const by = (work: SayAgain): AskedBy => ({ asker: bench, origin: "job", client: null, revision: work.revision });
  let failures = 0;
  for (const message of lineOf(home.messages, workOf(home, id).through)) {
    if (message.role !== "visitor") continue;
    signal.throwIfAborted();
    const work = workOf(home, id);
    const into = work.into === undefined ? undefined : home.conversations.byId(work.into);
    if (work.into !== undefined && !into) refuse("not-found", "The conversation that comes of it was deleted.");
    const last = into?.tip ? home.messages.message(into.tip) : undefined;
    const isThere = (last?.turn ?? 0) >= message.turn;
    const isCutOff = last?.role === "app" && last.turn === message.turn && last.state === "interrupted";
    if (isThere && !isCutOff) continue;
    if (mostPrice !== null && (into?.price ?? 0) >= mostPrice)
      throw new Refusal(
        problem("over-limit", `It was to cost ${mostPrice / 1_000_000} at most, and that is spent.`, {
          advice: "Say it again with another limit; what was answered is kept.",
        }),
      );
    const call = isCutOff
      ? { again: last.parent ?? "" }
      : { message: textOf(message), ...(into ? { conversation: into.id } : {}) };
    const { reply } = ask(home, app, by(work), call, ({ head }) => {
      if (into) return;
      home.conversations.madeBy(head.conversation, id, work.of);
      home.jobs.setWork(id, { ...work, into: head.conversation }, Date.now());
    });
    await endedOrStopped(home, reply, signal);
    const answered = home.messages.message(reply);
    failures = answered?.role === "app" && answered.state === "failed" ? failures + 1 : 0;
    const spent = home.conversations.conversationOf(reply)?.price ?? 0;
    home.jobs.setPrice(id, spent);
    home.jobs.setDone(id, message.turn, of, Date.now());
    home.changes.tellJobs();
    if (answered?.role === "app" && answered.facts.problem && failures >= mostFailures)
      throw new Refusal(answered.facts.problem);
  }
  return "done";
}

/** Waits for a reply; stops it where the job is. */
async function endedOrStopped({ hub }: Home, reply: string, signal: AbortSignal): Promise<void> {
  const stop = () => void hub.stop(reply);
  signal.addEventListener("abort", stop);
  try {
    await hub.ended(reply);
  } finally {
    signal.removeEventListener("abort", stop);
  }
  signal.throwIfAborted();
}

function workOf({ jobs }: Home, id: string): SayAgain {
  const work = jobs.byId(id)?.work;
  if (work?.kind !== "say-again") refuse("not-found", `There is no job ${id}.`);
  return work;
}

function endOf(
  { branches, conversations }: Home,
  conversation: StoredConversation,
  through: string | undefined,
): string {
  const end = through === undefined ? tipFor(bench, conversation) : branches.endOf(through).id;
  if (end === null || conversations.conversationOf(end)?.id !== conversation.id)
    refuse("not-found", "There is no such line in this conversation.");
  return end;
}
