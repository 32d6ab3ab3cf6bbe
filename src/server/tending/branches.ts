import { mostPins } from "@/core/context/row";
import type { ReplyFacts } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import type { Candidate } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import type { HasApps } from "../apps/app-store";
import type { HasBranches, StoredSibling } from "../conversations/branch-store";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasPins } from "../conversations/pin-store";
import type { HasDatabase } from "../database/database";
import type { HasErasing } from "../database/erasing";
import { type HasRemoval, Slices } from "../database/slices";
import type { HasStorage } from "../database/storage-watch";
import { conversationOfApp, whoseLine } from "../entrance/access";
import type { HasLog } from "../ground/log";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { HasSummarising } from "../summaries/summarising";

/** What of the process is used here. */
export type BranchesNeeds = HasDatabase &
  HasStorage &
  HasApps &
  HasConversations &
  HasMessages &
  HasBranches &
  HasPins &
  HasSummarising &
  HasChanges &
  HasHub &
  HasRemoval &
  HasErasing &
  HasLog;

const bench = { kind: "bench" } as const;

/** Shows the line through a message, which is gone on from from here on. @throws {Refusal} `not-found` */
export function showBranch(home: BranchesNeeds, id: string): { tip: string } {
  const conversation = conversationWith(home, id);
  const tip = home.database
    .transaction(() => home.branches.show(conversation.id, id, whoseLine(bench, conversation)))
    .immediate();
  home.changes.tell(conversation.id);
  return { tip };
}

/** Shows a visitor the line through a message of one's own conversation. @throws {Refusal} `not-found` */
export function showLine(home: BranchesNeeds, conversation: StoredConversation, message: string): void {
  if (home.conversations.conversationOf(message)?.id !== conversation.id || !home.messages.message(message))
    refuse("not-found", `There is no message ${message} in this conversation.`);
  home.database.transaction(() => home.branches.show(conversation.id, message, "shown")).immediate();
  home.changes.tell(conversation.id);
}

/** Names the branch that begins with a message. @throws {Refusal} `not-found` */
export function nameBranch(home: BranchesNeeds, id: string, name: string | null): void {
  const conversation = conversationWith(home, id);
  home.branches.name(id, name);
  home.changes.tell(conversation.id);
}

/**
 * Deletes a branch or a take, with all below it: what arrives in it is stopped, then nobody can read it or go on from it,
 * and by the end all of it is out of sight. Where it was shown, the one before it is, or else the one after.
 * @throws {Refusal} `conflict` where there is no other
 */
export async function deleteBranch(home: BranchesNeeds, id: string): Promise<void> {
  const { branches, hub, database, removal, erasing, changes, summarising } = home;
  conversationWith(home, id);
  for (let arriving = underWayBelow(home, id); arriving.length > 0; arriving = underWayBelow(home, id))
    await Promise.all(arriving.map((reply) => hub.stop(reply)));
  await summarising.stop(conversationWith(home, id).id);
  // it may have been deleted while that was waited for
  const conversation = conversationWith(home, id);
  database
    .transaction(() => {
      const siblings = siblingsOf(home, conversation, id);
      const at = siblings.findIndex((each) => each.id === id);
      const other = siblings[at - 1] ?? siblings[at + 1];
      if (!other)
        refuse("conflict", "There is no other line beside it.", { advice: "Delete the conversation instead." });
      for (const whose of ["shown", "bench"] as const) {
        const tip = whose === "shown" ? conversation.tip : conversation.benchTip;
        if (tip !== null && branches.goesThrough(conversation.id, tip, id))
          branches.show(conversation.id, other.id, whose);
      }
      branches.leave(id);
      erasing.want(Date.now());
    })
    .immediate();
  changes.tell(conversation.id);
  await leaving(home).start();
  void removal.start();
  void erasing.start();
}

/** Replies that have not ended, below a message or it itself. */
function underWayBelow(home: BranchesNeeds, message: string): string[] {
  const { id } = conversationWith(home, message);
  return home.messages.underWayIn(id).filter((reply) => home.branches.goesThrough(id, reply, message));
}

/** Messages that leave in one transaction, which stays within some milliseconds. */
const leavingAtOnce = 40;

/** Takes what is deleted out of sight. What a stop of the process leaves of it is gone on with when it is removed. */
function leaving({ database, storage, log, branches }: BranchesNeeds): Slices {
  return new Slices(database, storage, log, "not all below a deleted message is out of sight", () =>
    branches.leaveSome(leavingAtOnce),
  );
}

/**
 * Adds a take that somebody wrote, and shows it.
 * @param corrects the take that it puts right
 * @throws {Refusal} `not-found`
 */
export function writeTake(
  home: BranchesNeeds,
  id: string,
  text: string,
  corrects: string | undefined,
): { reply: string } {
  const { messages, apps, database, changes } = home;
  const conversation = conversationWith(home, id);
  const message = messages.message(id);
  if (message?.role !== "visitor") refuse("not-found", `There is no message ${id} of a visitor.`);
  const before = corrects === undefined ? undefined : messages.message(corrects);
  if (corrects !== undefined && (before?.role !== "app" || before.parent !== id))
    refuse("not-found", `There is no take ${corrects} of the reply to that message.`);
  const { number, content } = apps.latest(conversation.app);
  const made = before?.role === "app" ? before.facts : { ...content, revision: number };
  const facts: ReplyFacts = {
    provider: made.provider,
    model: made.model,
    revision: made.revision,
    hand: before ? "corrected" : "written",
  };
  const reply = database
    .transaction(() => {
      const now = Date.now();
      const added = messages.addReply({
        conversation: conversation.id,
        parent: message,
        continues: null,
        facts,
        now,
        whose: whoseLine(bench, conversation),
      });
      messages.finishReply({ id: added.id, state: "complete", pieces: piecesOf(text), reported: null, facts });
      return added.id;
    })
    .immediate();
  changes.tell(conversation.id);
  return { reply };
}

/**
 * Draws a line after a reply, or takes it away.
 * @param by whose memory alone it is of; null for that of all
 * @throws {Refusal} `not-found`
 */
export function setClear(home: BranchesNeeds, id: string, isClear: boolean, by: Candidate | null = null): void {
  const conversation = conversationWith(home, id);
  const message = home.messages.message(id);
  if (message?.role !== "app" || isUnderWay(message.state))
    refuse("not-found", `There is no reply ${id} that has ended.`);
  if (isClear) home.branches.clear(conversation.id, id, by, Date.now());
  else home.branches.unclear(id, by);
  home.changes.tell(conversation.id);
}

/** The model that a call names; null where it names none. @throws {Refusal} `bad-request` where half of it is missing */
export function modelIn({ provider, model }: Partial<Candidate>): Candidate | null {
  if (provider === undefined && model === undefined) return null;
  if (provider === undefined || model === undefined)
    refuse("bad-request", "A model is named by `provider` and `model`.", {
      advice: "Give both, or none for all models.",
    });
  return { provider, model };
}

/** Pins the turn of a visitor's message, or takes that away. @throws {Refusal} `not-found`, `conflict` */
export function setPin(home: BranchesNeeds, id: string, isPin: boolean): void {
  const conversation = conversationWith(home, id);
  if (home.messages.message(id)?.role !== "visitor") refuse("not-found", `There is no message ${id} of a visitor.`);
  home.database
    .transaction(() => {
      if (!isPin) return home.pins.unpin(id);
      if (home.pins.ofConversation(conversation.id).length >= mostPins)
        refuse("conflict", `${mostPins} turns of this conversation are pinned already.`, {
          advice: "Take a pin away first.",
        });
      home.pins.pin(conversation.id, id, Date.now());
    })
    .immediate();
  home.changes.tell(conversation.id);
}

/** The conversation that a message stands in. @throws {Refusal} `not-found` */
function conversationWith(home: HasApps & HasConversations & HasMessages, message: string): StoredConversation {
  const found = home.messages.message(message) && home.conversations.conversationOf(message);
  if (!found) refuse("not-found", `There is no message ${message}.`);
  return conversationOfApp(home, found.id)[1];
}

function siblingsOf(
  { messages, branches }: HasMessages & HasBranches,
  { id: conversation }: StoredConversation,
  id: string,
): StoredSibling[] {
  const message = messages.message(id) ?? refuse("not-found", `There is no message ${id}.`);
  return branches.siblingsOf(conversation, message);
}
