import type { AppMessage } from "@/core/conversation/message";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { WhoseLine } from "../conversations/branch-store";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { refuse } from "../ground/refusal";

/** Who asks: the developer at the bench, or a visitor. */
export type Asker = { kind: "bench" } | { kind: "visitor"; visitor: string };

/** A conversation that the asker may see. @throws {Refusal} `not-found` */
export function conversationAt(
  { conversations }: HasConversations,
  app: StoredApp,
  asker: Asker,
  id: string,
): StoredConversation {
  const conversation = conversations.byId(id);
  if (!conversation || !owns(asker, app, conversation)) refuse("not-found", `There is no conversation ${id}.`);
  return conversation;
}

/** A reply that the asker may see. @throws {Refusal} `not-found` */
export function replyAt(
  { conversations, messages }: HasConversations & HasMessages,
  app: StoredApp,
  asker: Asker,
  id: string,
): AppMessage {
  const message = messages.message(id);
  const conversation = conversations.conversationOf(id);
  if (message?.role !== "app" || !conversation || !owns(asker, app, conversation))
    refuse("not-found", `There is no reply ${id}.`);
  return message;
}

/** Whether a conversation is the asker's: the bench has all of an app, a visitor one's own. */
export function owns(asker: Asker, app: StoredApp, conversation: StoredConversation): boolean {
  return conversation.app === app.id && (asker.kind === "bench" || conversation.visitor === asker.visitor);
}

/** The end of the line that an asker goes on from; null where nothing was said yet. */
export function tipFor(asker: Asker, { tip, benchTip }: StoredConversation): string | null {
  return asker.kind === "bench" ? (benchTip ?? tip) : tip;
}

/** The line that an asker's messages and choices belong to: what the bench does changes nothing for a visitor. */
export function whoseLine(asker: Asker, { visitor }: StoredConversation): WhoseLine {
  return asker.kind === "bench" && visitor !== null ? "bench" : "shown";
}

/** A conversation whosever it is, with its app. @throws {Refusal} `not-found` */
export function conversationOfApp(
  { apps, conversations }: HasApps & HasConversations,
  id: string,
): [StoredApp, StoredConversation] {
  const conversation = conversations.byId(id);
  const app = conversation && apps.byId(conversation.app);
  if (!app) refuse("not-found", `There is no conversation ${id}.`);
  return [app, conversation];
}

/** A reply whosever it is. @throws {Refusal} `not-found` */
export function replyOfAnyone({ messages }: HasMessages, id: string): AppMessage {
  const message = messages.message(id);
  if (message?.role !== "app") refuse("not-found", `There is no reply ${id}.`);
  return message;
}
