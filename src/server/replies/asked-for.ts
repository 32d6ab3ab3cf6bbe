import { type HeldCall, type HeldMessage, heldText, type MessageCall, type ReplyCall } from "@/contract/replies";
import type { AppMessage, Message } from "@/core/conversation/message";
import { holdsSomething, type Piece, piecesOf } from "@/core/conversation/pieces";
import { canGoOn, isUnderWay } from "@/core/reply/reply";
import type { Revision } from "@/core/revision/revision";
import type { StoredApp } from "../apps/app-store";
import type { HasConversations, Origin, StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { type Asker, conversationAt, owns, tipFor, whoseLine } from "../entrance/access";
import type { HasUploads } from "../entrance/upload-store";
import type { HasFiles } from "../files/file-store";
import { refuse } from "../ground/refusal";

/** What of the process is used here. */
export type StoreNeeds = HasConversations & HasMessages & HasFiles & HasUploads;

/** What is to be answered. */
export interface AskedFor {
  conversation: StoredConversation;
  /** The visitor's message. */
  message: Message;
  /** The end of the line that is sent: that message, or the reply that is gone on from. */
  end: Message;
  /** The reply that is gone on from. */
  begun?: AppMessage;
}

/** Who asks, and by what. */
export interface Asking {
  asker: Asker;
  origin: Origin;
  client: string | null;
  /** The id that a new conversation gets; one of our own without it. */
  begins?: string;
}

/** Stores what a call says, and finds where it belongs. @throws {Refusal} */
export function storeAsked(
  home: StoreNeeds,
  app: StoredApp,
  by: Asking,
  call: ReplyCall,
  revision: Revision,
  now: number,
): AskedFor {
  if ("goOn" in call) return gatherGoOn(home, app, by.asker, call.goOn);
  if ("again" in call) return gatherAgain(home, app, by.asker, call.again);
  return "messages" in call ? storeHeld(home, app, by, call, revision, now) : storeMessage(home, app, by, call, now);
}

/** The text of a message that is asked with. */
export function textIn({ message }: MessageCall): string {
  if (typeof message === "string") return message;
  return message.map((piece) => (piece.kind === "text" ? piece.text : "")).join("");
}

/** The pieces of a message that is asked with, its pictures as they are kept. @throws {Refusal} `not-found` */
function piecesIn({ files, uploads }: HasFiles & HasUploads, { message }: MessageCall, asker: Asker): Piece[] {
  if (typeof message === "string") return piecesOf(message);
  return message.map((piece): Piece => {
    if (piece.kind !== "picture") return piece;
    const hash = asker.kind === "bench" ? piece.file : uploads.hashOf(asker.visitor, piece.file);
    const file = hash === undefined ? undefined : files.find(hash);
    if (!file)
      refuse("not-found", `There is no picture ${piece.file}.`, {
        advice: "Keep it first, with POST to the files of this app, and name it by what comes back.",
      });
    const { type, width, height } = file;
    return { kind: "picture", file: file.hash, type, width, height };
  });
}

/** What a conversation is known by that has no title: the text that it begins with. */
function openingOf(call: MessageCall): string {
  return textIn(call).trim() || "A picture";
}

/** Stores a history that its caller holds, as a conversation that is kept only where that was asked for. */
function storeHeld(
  { conversations, messages }: HasConversations & HasMessages,
  app: StoredApp,
  by: Asking,
  { messages: held, store }: HeldCall,
  { number, content }: Revision,
  now: number,
): AskedFor {
  const conversation = conversations.create({
    ...ownerOf(app, by),
    isPassing: store !== true,
    opening: held[0] ? heldText(held[0]) : "",
    now,
  });
  let said: Message | undefined;
  for (const [at, each] of held.entries()) {
    const pieces = heldPieces(each);
    if (each.role === "visitor" || said === undefined)
      said = messages.addVisitorMessage({ conversation: conversation.id, parent: said, pieces, now });
    else {
      const facts = { revision: number, provider: content.provider, model: content.model };
      const { id } = messages.addReply({
        conversation: conversation.id,
        parent: said,
        continues: null,
        facts,
        now,
      });
      // the last one asked for tools that were answered since: it is gone on from
      const state = at === held.length - 1 ? "stopped" : "complete";
      messages.finishReply({ id, state, pieces, reported: null, facts });
      said = messages.message(id);
    }
  }
  const end = said as Message;
  if (end.role === "visitor") return { conversation, message: end, end };
  const message = messages.message(end.parent ?? "") as Message;
  return { conversation, message, end, begun: end };
}

/** The pieces of a message of a history. */
function heldPieces(message: HeldMessage): Piece[] {
  const { text, pieces = [] } = message;
  if (text !== undefined) return piecesOf(text);
  return pieces.map((piece): Piece => (piece.kind === "tool" ? { ...piece, by: "caller" } : piece));
}

function ownerOf({ id: app }: StoredApp, { asker, origin, client }: Asking) {
  return { app, visitor: asker.kind === "visitor" ? asker.visitor : null, origin, client };
}

function storeMessage(home: StoreNeeds, app: StoredApp, by: Asking, call: MessageCall, now: number): AskedFor {
  const { conversations, messages } = home;
  const pieces = piecesIn(home, call, by.asker);
  const conversation =
    call.conversation === undefined
      ? begun(conversations, { ...ownerOf(app, by), id: by.begins, opening: openingOf(call), now })
      : conversationAt({ conversations }, app, by.asker, call.conversation);
  const parent = parentFor({ conversations, messages }, conversation, call.after, by.asker);
  const message = messages.addVisitorMessage({
    conversation: conversation.id,
    parent,
    pieces,
    now,
    whose: whoseLine(by.asker, conversation),
  });
  return { conversation, message, end: message };
}

/** A new conversation. @throws {Refusal} `conflict` where its id is taken */
function begun(
  conversations: HasConversations["conversations"],
  wanted: Parameters<HasConversations["conversations"]["create"]>[0],
): StoredConversation {
  if (wanted.id !== undefined && conversations.stored(wanted.id))
    refuse("conflict", `Conversation ${wanted.id} was begun already.`, { advice: "Open it, and go on there." });
  return conversations.create(wanted);
}

/** The reply that a message comes after: the end of the line, or the one that is named; none where it is null. */
function parentFor(
  { conversations, messages }: HasConversations & HasMessages,
  conversation: StoredConversation,
  after: string | null | undefined,
  asker: Asker,
): Message | undefined {
  const id = after === undefined ? tipFor(asker, conversation) : after;
  if (id === null) return undefined;
  const parent = messages.message(id);
  if (!parent || conversations.conversationOf(id)?.id !== conversation.id)
    refuse("not-found", `There is no message ${id} in this conversation.`);
  if (parent.role === "visitor")
    refuse("bad-request", `Message ${id} is a visitor's; a new one can only come after a reply.`, {
      advice: "Name a reply in `after`.",
    });
  if (isUnderWay(parent.state)) refuse("busy", `Reply ${id} is still arriving.`, { reply: id });
  return parent;
}

/** The message to which another take of the reply is wanted, whatever else arrives beside it. */
function gatherAgain(
  { conversations, messages }: HasConversations & HasMessages,
  app: StoredApp,
  asker: Asker,
  id: string,
): AskedFor {
  const message = messages.message(id);
  const conversation = conversations.conversationOf(id);
  if (message?.role !== "visitor" || !conversation || !owns(asker, app, conversation))
    refuse("not-found", `There is no message ${id} of a visitor.`);
  return { conversation, message, end: message };
}

function gatherGoOn(
  { conversations, messages }: HasConversations & HasMessages,
  app: StoredApp,
  asker: Asker,
  id: string,
): AskedFor {
  const begun = messages.message(id);
  const conversation = conversations.conversationOf(id);
  if (begun?.role !== "app" || !conversation || !owns(asker, app, conversation))
    refuse("not-found", `There is no reply ${id}.`);
  if (isUnderWay(begun.state)) refuse("busy", `Reply ${id} is still arriving.`, { reply: id });
  if (!canGoOn(begun.state))
    refuse(
      "conflict",
      `Reply ${id} is ${begun.state}; only one that was cut, stopped or interrupted can be gone on from.`,
    );
  const further = messages.continuationUnderWay(id);
  if (further) refuse("busy", `Reply ${further} goes on from ${id}, and is still arriving.`, { reply: further });
  const message = begun.parent === null ? undefined : messages.message(begun.parent);
  if (!message) throw new Error(`Reply ${id} answers nothing.`);
  return { conversation, message, end: holdsSomething(begun) ? begun : message, begun };
}
