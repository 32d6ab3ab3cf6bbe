import type { Rating } from "@/core/conversation/rating";
import { isUnderWay } from "@/core/reply/reply";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMarks, Rater } from "../conversations/mark-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";

/** What of the process is used here. */
export type MarksNeeds = HasConversations & HasMessages & HasMarks & HasChanges;

/** What is written on a conversation; what is left out stays as it is. */
interface Written {
  title?: string | null;
  note?: string;
  tags?: string[];
}

/** Writes on a conversation. */
export function writeOn(
  home: HasDatabase & HasMarks & HasChanges,
  { id }: StoredConversation,
  { title, note, tags }: Written,
): void {
  const { marks } = home;
  home.database
    .transaction(() => {
      if (title !== undefined) marks.setTitle(id, title);
      if (note !== undefined) marks.setNote(id, note);
      if (tags !== undefined) marks.setTags(id, tags);
    })
    .immediate();
  home.changes.tell(id);
}

/** Marks a reply that has ended. @param rating null takes the mark away @throws {Refusal} `not-found` */
export function rateReply(home: MarksNeeds, message: string, rater: Rater, rating: Rating | null): void {
  const reply = home.messages.message(message);
  const conversation = home.conversations.conversationOf(message)?.id;
  if (reply?.role !== "app" || isUnderWay(reply.state) || conversation === undefined)
    refuse("not-found", `There is no reply ${message} that has ended.`);
  home.marks.rate({ conversation, message, rater }, rating, Date.now());
  home.changes.tell(conversation);
}
