import { createHash } from "node:crypto";
import { type HeldMessage, heldText } from "@/contract/replies";
import { textOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import type { HasConversations } from "./conversation-store";
import type { HasHistories } from "./history-store";
import type { HasMessages } from "./message-store";

/** What stands for a history: the same for the same words in the same order. */
export function historyHash(messages: readonly HeldMessage[]): string {
  const hash = createHash("sha256");
  // the length goes before, so that no text can look like the border of two
  for (const message of messages) {
    const text = heldText(message);
    hash.update(`${message.role} ${text.length} `).update(text);
  }
  return hash.digest("base64url");
}

/**
 * The place at which a visitor's history goes on that was sent before: the stored reply that it holds last, with
 * all that was said before it.
 */
export function findHistory(
  { histories, conversations, messages: stored }: HasConversations & HasMessages & HasHistories,
  visitor: string,
  messages: readonly HeldMessage[],
): { conversation: string; reply: string } | undefined {
  const answered = messages.at(-2);
  if (!answered) return undefined;
  // what stands between two texts is the caller's: between them the app may have called tools
  const bare = (text: string) => text.replace(/\s+/g, "");
  const said = bare(heldText(answered));
  for (const message of histories.find(visitor, historyHash(messages.slice(0, -2)))) {
    const conversation = conversations.conversationOf(message);
    const reply = stored.takesOf(message).find((take) => !isUnderWay(take.state) && bare(textOf(take)) === said);
    if (conversation && reply) return { conversation: conversation.id, reply: reply.id };
  }
  return undefined;
}
