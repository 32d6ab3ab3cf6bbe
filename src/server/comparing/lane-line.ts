import { isUnderWay } from "@/core/reply/reply";
import type { HasBranches } from "../conversations/branch-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasPins } from "../conversations/pin-store";
import type { HasDatabase } from "../database/database";
import { refuse } from "../ground/refusal";

/** What of the process is used here. */
export type CopyNeeds = HasDatabase & HasConversations & HasMessages & HasBranches & HasPins;

/** Messages that are copied in one transaction, which takes some milliseconds. */
const copiedAtOnce = 100;

/** What comes of copying a line. */
export interface CopiedLine {
  conversation: string;
  /** The ids of the copies by those that they are of. */
  copies: Map<string, string>;
}

/**
 * Copies the line that ends with a message into a new conversation, with its pins and the lines drawn in it; in slices, so
 * that no reply waits for it. A reply that still arrives is not copied, nor is what it answers.
 * @param to whose the new conversation is: the bench's own, or a comparison's
 * @throws {Refusal} `not-found`, and `conflict` where the line is deleted meanwhile
 */
export async function copyOfLine(
  home: CopyNeeds,
  app: string,
  end: string,
  to: { isOwned: boolean; opening: string },
): Promise<CopiedLine> {
  const { conversations, messages, branches, pins, database } = home;
  const of = conversations.conversationOf(end) ?? refuse("not-found", `There is no message ${end}.`);
  const { conversation } = newLine(home, app, to);
  const last = messages.message(end);
  const isArriving = last?.role === "app" && isUnderWay(last.state);
  const ids = messages.lineIds(end).slice(0, isArriving ? -2 : undefined);
  const copies = new Map<string, string>();
  for (let from = 0; from < ids.length; from += copiedAtOnce) {
    const slice = ids.slice(from, from + copiedAtOnce);
    const made = database
      .transaction(() => messages.copyAfter(copies.get(ids[from - 1] ?? ""), slice, conversation, Date.now()))
      .immediate();
    for (const [at, copy] of made.entries()) copies.set(slice[at] ?? "", copy);
    if (made.length < slice.length) {
      conversations.leave(conversation, Date.now());
      refuse("conflict", "The conversation was deleted while it was being copied.");
    }
    await new Promise(setImmediate);
  }
  database
    .transaction(() => {
      for (const { message } of pins.ofConversation(of.id)) {
        const copy = copies.get(message);
        if (copy !== undefined) pins.pin(conversation, copy, Date.now());
      }
      for (const { message, by } of branches.clearsIn(of.id)) {
        const copy = copies.get(message);
        if (copy !== undefined) branches.clear(conversation, copy, by, Date.now());
      }
    })
    .immediate();
  return { conversation, copies };
}

/** A conversation in which nothing was said yet. */
export function newLine(
  { conversations }: HasConversations,
  app: string,
  { isOwned, opening }: { isOwned: boolean; opening: string },
): CopiedLine {
  const origin = isOwned ? "lane" : "bench";
  const { id } = conversations.create({ app, visitor: null, origin, isOwned, opening, now: Date.now() });
  return { conversation: id, copies: new Map() };
}
