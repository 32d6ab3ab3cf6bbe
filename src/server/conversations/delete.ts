import type { Boot } from "../boot";
import { refuse } from "../refusal";

/**
 * Deletes a conversation, for good or so that it can be restored: it takes no new replies from here on,
 * and what arrives in it is stopped. What is deleted for good takes no room a little later.
 */
export async function deleteConversation(
  { conversations, hub, removal }: Boot,
  id: string,
  how: "for good" | "restorable",
): Promise<void> {
  if (how === "for good") conversations.leave(id, Date.now());
  else conversations.hide(id, Date.now());
  await Promise.all(conversations.underWayIn(id).map((reply) => hub.stop(reply)));
  if (how === "for good") void removal.start();
}

/** Takes a deletion back. @throws {Refusal} `not-found` where it was for good */
export function restoreConversation({ conversations }: Boot, id: string): void {
  if (!conversations.restore(id)) refuse("not-found", `Conversation ${id} is deleted for good.`);
}
