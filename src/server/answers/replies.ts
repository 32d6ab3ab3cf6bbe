import { problemDocument } from "@/contract/problem";
import type { ReplyStanding, WholeAnswer } from "@/contract/replies";
import type { AppMessage } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import type { ReplyHead } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import { type Told, toldUsage } from "@/core/reply/told";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasUploads } from "../entrance/upload-store";
import { Refusal, refuse } from "../ground/refusal";
import { type HasEvents, numbered } from "../live/event-store";
import type { HasHub } from "../live/hub";
import type { HasToolMeans } from "../tools/answering";
import { pictureIds, problemForCaller } from "./for-caller";
import { callsForCaller } from "./turn";

/** What of the process is used here. */
export type ToldReplyNeeds = HasConversations & HasMessages & HasEvents & HasHub & HasToolMeans;

/** What of the process a whole answer takes. */
export type WholeAnswerNeeds = HasMessages & HasHub & HasConversations & HasUploads;

/** A reply as it stands. */
export function standingOfReply({ conversations, messages, events, hub }: ToldReplyNeeds, id: string): ReplyStanding {
  const conversation = conversations.conversationOf(id)?.id ?? "";
  const live = hub.standing(id);
  if (live)
    return { reply: id, conversation, state: live.state, text: textOf(live), ...dataIn(live), cursor: live.cursor };
  const message = messages.message(id);
  if (message?.role !== "app") refuse("not-found", `Reply ${id} was deleted.`);
  return {
    reply: id,
    conversation,
    state: message.state,
    text: textOf(message),
    ...dataIn(message),
    cursor: events.lastId(id),
  };
}

/** A reply as it stands for a caller: with the whole problem that ended it, and what it cost, as far as it is told. */
export function standingForCaller(home: ToldReplyNeeds, id: string, told: Told): ReplyStanding {
  const standing = standingOfReply(home, id);
  const message = home.messages.message(id);
  if (message?.role !== "app" || isUnderWay(standing.state)) {
    const calls = callsForCaller(home, id);
    return calls.length === 0 ? standing : { ...standing, calls };
  }
  const { usage, problem } = message.facts;
  const cost = usage && toldUsage(usage, told);
  const partial = standing.text === "" ? {} : { partial: standing.text };
  return {
    ...standing,
    ...(cost ? { usage: cost } : {}),
    ...(problem ? { problem: problemDocument(problemForCaller(problem), { reply: id, ...partial }) } : {}),
  };
}

/** The whole answer as a caller gets it, once the reply has ended. @throws {Refusal} with the problem that ended it */
export async function wholeAnswer(home: WholeAnswerNeeds, id: string, told: Told): Promise<Omit<WholeAnswer, "next">> {
  const { messages, hub } = home;
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
  const { reply, conversation, message: asked, revision, preview } = head;
  // a fallback may have answered, which the beginning did not know
  const { provider, model, usage, cites } = message.facts;
  const cost = usage && toldUsage(usage, told);
  return {
    form: "whole",
    reply,
    conversation,
    message: asked,
    revision,
    preview,
    ...(told.model ? { provider, model } : {}),
    text,
    ...dataIn(message),
    ...picturesIn(message, pictureIds(home, id)),
    cites,
    end: last.data.reason,
    ...(cost ? { usage: cost } : {}),
  };
}

/** The pictures of a reply, where it has some. @param fileOf the id under which the caller knows one */
function picturesIn(
  { pieces }: Pick<AppMessage, "pieces">,
  fileOf: (hash: string) => string | undefined,
): Pick<WholeAnswer, "pictures"> {
  const pictures = pieces.flatMap((piece) => {
    if (piece.kind !== "picture") return [];
    const { kind: _kind, file: hash, ...about } = piece;
    const file = fileOf(hash);
    return file === undefined ? [] : [{ file, ...about }];
  });
  return pictures.length === 0 ? {} : { pictures };
}

/** A reply as data, where it is that. */
function dataIn({ pieces }: Pick<AppMessage, "pieces">): Pick<WholeAnswer, "data"> {
  const data = pieces.find((piece) => piece.kind === "data");
  return data ? { data: data.value } : {};
}

/** What the first event of a reply says. */
export function headOf(first: { event: string; data: unknown } | undefined): ReplyHead | undefined {
  return first?.event === "reply" ? (first.data as ReplyHead) : undefined;
}

/** Stops a reply, and says how it ended. */
export async function stoppedReply(
  boot: ToldReplyNeeds,
  id: string,
): Promise<{ reply: string; state: ReplyStanding["state"] }> {
  await boot.hub.stop(id);
  return { reply: id, state: standingOfReply(boot, id).state };
}
