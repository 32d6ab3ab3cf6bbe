import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasBranches } from "../conversations/branch-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import type { HasRemoval } from "../database/slices";
import type { HasVisitors } from "../entrance/visitor-store";
import { refuse } from "../ground/refusal";
import type { HasEvents } from "../live/event-store";
import type { HasHub } from "../live/hub";
import type { HasSummarising } from "../summaries/summarising";

/** What of the process is used here. */
export type DeletingNeeds = HasDatabase &
  HasApps &
  HasConversations &
  HasMessages &
  HasSummarising &
  HasHub &
  HasRemoval;

/**
 * Deletes a conversation, for good or so that it can be restored: it takes no new replies from here on,
 * and what arrives in it is stopped. What is deleted for good takes no room a little later.
 */
export async function deleteConversation(
  { conversations, messages, hub, removal, summarising }: DeletingNeeds,
  id: string,
  how: "for good" | "restorable",
): Promise<void> {
  if (how === "for good") conversations.leave(id, Date.now());
  else conversations.hide(id, Date.now());
  await Promise.all([summarising.stop(id), ...messages.underWayIn(id).map((reply) => hub.stop(reply))]);
  if (how === "for good") void removal.start();
}

/** Deletes several, so that they can be restored; one that is not there is left out. */
export async function deleteConversations(home: DeletingNeeds, ids: readonly string[]): Promise<void> {
  const { conversations, messages, database, hub, summarising } = home;
  database
    .transaction(() => {
      for (const id of ids) conversations.hide(id, Date.now());
    })
    .immediate();
  const replies = ids.flatMap((id) => messages.underWayIn(id));
  await Promise.all([...ids.map((id) => summarising.stop(id)), ...replies.map((reply) => hub.stop(reply))]);
}

/** Takes the deletion of several back, as far as they can be restored. */
export function restoreConversations(
  { conversations, database }: HasDatabase & HasConversations,
  ids: readonly string[],
): void {
  database
    .transaction(() => {
      for (const id of ids) conversations.restore(id);
    })
    .immediate();
}

/** Takes a deletion back. @throws {Refusal} `not-found` where it was for good */
export function restoreConversation({ conversations }: HasConversations, id: string): void {
  if (!conversations.restore(id)) refuse("not-found", `Conversation ${id} is deleted for good.`);
}

/** Messages that are deleted in one transaction, which stays within some milliseconds. */
const sliceSize = 20;

/**
 * Deletes some of what was marked as leaving: conversations, and apps with all of theirs; false when nothing is
 * left. A conversation is deleted deepest message first, so that nothing is deleted along with anything; with its
 * last one a visitor is forgotten.
 */
export function deleteSome({
  conversations,
  branches,
  apps,
  events,
  visitors,
}: HasApps & HasBranches & HasConversations & HasEvents & HasVisitors): boolean {
  if (branches.leaveSome(sliceSize) || branches.deleteSome(sliceSize)) return true;
  const conversation = conversations.nextLeaving();
  if (conversation === undefined) return apps.deleteLeft();
  if (conversations.deleteDeepest(conversation, sliceSize)) return true;
  const visitor = conversations.delete(conversation);
  if (visitor !== undefined) visitors.forget(visitor);
  events.forgetDeleted();
  return true;
}

/**
 * Deletes an app with all its conversations: it takes no new replies from here on, what arrives is
 * stopped, and it takes no room a little later.
 */
export async function deleteApp(home: DeletingNeeds, app: StoredApp): Promise<void> {
  const { apps, messages, hub, removal, summarising } = home;
  apps.leave(app.id);
  const replies = messages.underWayOf(app.id);
  await Promise.all([summarising.stopOf(app.id), ...replies.map((reply) => hub.stop(reply))]);
  void removal.start();
}
