import type { ReplyStanding, WholeAnswer } from "@/contract/replies";
import type { AppMessage } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import type { ReplyHead } from "@/core/reply/events";
import type { Home } from "../home";
import { Refusal, refuse } from "../refusal";
import { numbered } from "../replies/event-store";
import { problemForCaller } from "./for-caller";

/** A reply as it stands. */
export function standingOfReply({ conversations, messages, events, hub }: Home, id: string): ReplyStanding {
  const conversation = conversations.conversationOf(id)?.id ?? "";
  const live = hub.standing(id);
  if (live) return { reply: id, conversation, state: live.state, text: textOf(live), cursor: live.cursor };
  const message = messages.message(id);
  if (message?.role !== "app") refuse("not-found", `Reply ${id} was deleted.`);
  return {
    reply: id,
    conversation,
    state: message.state,
    text: textOf(message),
    cursor: events.lastId(id),
  };
}

/** The whole answer, once the reply has ended. @throws {Refusal} with the problem that ended it */
export async function wholeAnswer({ messages, hub }: Home, id: string): Promise<Omit<WholeAnswer, "next">> {
  await hub.ended(id);
  const written = hub.eventsOf(id).map(numbered);
  const message = messages.message(id) as AppMessage | undefined;
  const last = written.at(-1);
  const head = headOf(written[0]);
  if (!message || !last || !head) refuse("not-found", "The reply was deleted while it arrived.");
  const text = textOf(message);
  if (last.event === "problem")
    throw new Refusal(problemForCaller(last.data), { reply: id, ...(text ? { partial: text } : {}) }, true);
  if (last.event !== "end") throw new Refusal(problem("internal", `Reply ${id} has no end.`));
  const { reply, conversation, message: asked, revision } = head;
  // a fallback may have answered, which the beginning did not know
  const { provider, model, usage } = message.facts;
  return {
    reply,
    conversation,
    message: asked,
    revision,
    provider,
    model,
    text,
    end: last.data.reason,
    ...(usage ? { usage } : {}),
  };
}

/** What the first event of a reply says. */
export function headOf(first: { event: string; data: unknown } | undefined): ReplyHead | undefined {
  return first?.event === "reply" ? (first.data as ReplyHead) : undefined;
}

/** Stops a reply, and says how it ended. */
export async function stoppedReply(boot: Home, id: string): Promise<{ reply: string; state: ReplyStanding["state"] }> {
  await boot.hub.stop(id);
  return { reply: id, state: standingOfReply(boot, id).state };
}
