import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasBranches } from "../conversations/branch-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import type { HasErasing } from "../database/erasing";
import type { HasRemoval } from "../database/slices";
import type { HasVisitors } from "../entrance/visitor-store";
import { refuse } from "../ground/refusal";
import type { HasEvents } from "../live/event-store";
import type { HasHub } from "../live/hub";
import type { HasDocuments } from "../sources/document-store";
import type { HasPassages } from "../sources/passage-store";
import type { HasVectors } from "../sources/vector-store";
import type { HasVisitorDocuments, VisitorDocument } from "../sources/visitor-document-store";
import type { HasSummarising } from "../summaries/summarising";

/** What of the process is used here. */
export type DeletingNeeds = HasDatabase &
  HasApps &
  HasConversations &
  HasMessages &
  HasSummarising &
  HasHub &
  HasRemoval &
  HasErasing;

/**
 * Deletes a conversation, for good or so that it can be restored: it takes no new replies from here on,
 * and what arrives in it is stopped. What is deleted for good is gone from every byte a little later.
 */
export async function deleteConversation(
  { conversations, messages, hub, removal, erasing, summarising }: DeletingNeeds,
  id: string,
  how: "for good" | "restorable",
): Promise<void> {
  const now = Date.now();
  if (how === "for good") {
    conversations.leave(id, now);
    erasing.want(now);
  } else conversations.hide(id, now);
  await Promise.all([summarising.stop(id), ...messages.underWayIn(id).map((reply) => hub.stop(reply))]);
  if (how === "restorable") return;
  void removal.start();
  void erasing.start();
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

/** What of the process is used to forget visitors. */
export type ForgettingNeeds = DeletingNeeds & HasVisitorDocuments & HasVisitors;

/**
 * Forgets a visitor's document, with the conversations in which something of it was found: what was said there may be
 * said from it. Nobody is answered from it from here on; its bytes are gone a little later.
 */
export async function forgetDocument(home: ForgettingNeeds, { id, visitor }: VisitorDocument): Promise<void> {
  const { visitorDocuments, visitors, conversations, database, removal, erasing } = home;
  const found = database
    .transaction(() => {
      const all = visitorDocuments.foundIn(id);
      // with the document goes the knowledge of where it was found
      for (const each of all) conversations.leave(each, Date.now());
      visitorDocuments.delete(id);
      erasing.want(Date.now());
      return all;
    })
    .immediate();
  await Promise.all(found.map((each) => deleteConversation(home, each, "for good")));
  visitors.forget(visitor);
  void removal.start();
  void erasing.start();
}

/** Forgets a visitor: all documents of one's own, and all conversations, whatever is under way. */
export async function forgetVisitor(home: ForgettingNeeds, visitor: string): Promise<void> {
  const { visitorDocuments, conversations } = home;
  await Promise.all(visitorDocuments.ofVisitor(visitor).map((document) => forgetDocument(home, document)));
  const all = conversations.idsOfVisitor(visitor);
  await Promise.all(all.map((id) => deleteConversation(home, id, "for good")));
}

/** Messages that are deleted in one transaction, which stays within some milliseconds; and passages, and parts, of a document. */
const sliceSize = 20;
const passagesAtOnce = 50;
const partsAtOnce = 5;

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
  ...documents
}: HasApps & HasBranches & HasConversations & HasEvents & HasVisitors & LeavingDocumentsNeeds): boolean {
  if (branches.leaveSome(sliceSize) || branches.deleteSome(sliceSize)) return true;
  const conversation = conversations.nextLeaving();
  if (conversation === undefined) return deleteSomeDocument(documents) || apps.deleteLeft();
  if (conversations.deleteDeepest(conversation, sliceSize)) return true;
  const visitor = conversations.delete(conversation);
  if (visitor !== undefined) visitors.forget(visitor);
  events.forgetDeleted();
  return true;
}

type LeavingDocumentsNeeds = HasDocuments & HasPassages & HasVectors;

/** Deletes some of a document that was a visitor's, and of which nothing is wanted any more; false where there is none. */
function deleteSomeDocument({ documents, passages, vectors }: LeavingDocumentsNeeds): boolean {
  const hash = documents.nextLeaving();
  if (hash === undefined) return false;
  const left = passages.leaveSome(hash, passagesAtOnce);
  vectors.leave(left);
  if (left.length === 0 && !documents.leaveParts(hash, partsAtOnce)) documents.delete(hash);
  return true;
}

/**
 * Deletes an app with all its conversations: it takes no new replies from here on, what arrives is
 * stopped, and it takes no room a little later.
 */
export async function deleteApp(home: DeletingNeeds, app: StoredApp): Promise<void> {
  const { apps, messages, hub, removal, erasing, summarising } = home;
  apps.leave(app.id);
  erasing.want(Date.now());
  const replies = messages.underWayOf(app.id);
  await Promise.all([summarising.stopOf(app.id), ...replies.map((reply) => hub.stop(reply))]);
  void removal.start();
  void erasing.start();
}
