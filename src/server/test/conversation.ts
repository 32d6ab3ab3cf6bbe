import type { AppMessage, VisitorMessage } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";

/** What a test's app is, where it does not matter. */
export const plainContent: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "p",
  model: "m",
  settings: {},
  memory: { kind: "everything" },
};

/** Who made a test's replies. */
export const plainFacts = { revision: 1, provider: "p", model: "m" };

interface How {
  visitor?: string | null;
  opening?: string;
  /** Turns whose reply failed without a word, from 1. */
  failing?: number[];
  now?: number;
}

/** A conversation of so many turns, each answered; gives its id. */
export function talk(home: HasConversations & HasMessages, app: string, turns: number, how: How = {}): string {
  const { visitor = null, opening = "Hello there,\n  you", failing = [], now = 1 } = how;
  const origin = visitor === null ? "bench" : "http";
  const { id } = home.conversations.create({ app, visitor, origin, opening, now });
  for (let turn = 1; turn <= turns; turn++) {
    const reply = addTurn(home, id, `Turn ${turn}`, now);
    const words = failing.includes(turn) ? "" : "Aye.";
    home.messages.finishReply({
      id: reply.id,
      state: words === "" ? "failed" : "complete",
      pieces: piecesOf(words),
      reported: words === "" ? null : 3,
      facts: plainFacts,
    });
  }
  return id;
}

/** A visitor's message at the end of a conversation, and a reply of which nothing has come; gives the reply. */
export function addTurn(
  home: HasConversations & HasMessages,
  conversation: string,
  words: string,
  now = 1,
): AppMessage {
  return waitFor(home, conversation, say(home, conversation, words, now), now);
}

export function say(
  home: HasConversations & HasMessages,
  conversation: string,
  words: string,
  now = 1,
): VisitorMessage {
  const tip = home.conversations.byId(conversation)?.tip;
  const parent = tip ? home.messages.message(tip) : undefined;
  return home.messages.addVisitorMessage({ conversation, parent, pieces: piecesOf(words), now });
}

function waitFor(home: HasMessages, conversation: string, parent: VisitorMessage, now: number): AppMessage {
  return home.messages.addReply({ conversation, parent, continues: null, facts: plainFacts, now });
}
