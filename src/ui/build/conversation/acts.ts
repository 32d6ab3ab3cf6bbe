import { branches } from "@/contract/branches";
import type { LineMessage } from "@/contract/conversations";
import type { MessageCall } from "@/contract/replies";
import { summaries } from "@/contract/summaries";
import type { Piece } from "@/core/conversation/pieces";
import type { Candidate } from "@/core/reply/events";
import { server } from "../../shared/api";
import type { ModelChoice } from "../../shared/inline/ModelValue";
import type { DraftStore } from "../draft/draft-store";
import { type ConversationStore, messageOf } from "./conversation-store";

/** What is wanted: so many takes, by the app's own model or by another. */
export interface WantedTakes {
  count: number;
  by: ModelChoice | undefined;
}

/** What is done with the messages of an open conversation; each gives whether it was done. */
export interface Acts {
  goOn: (reply: string) => Promise<boolean>;
  /** Asks for further takes of the reply to a visitor's message. */
  again: (message: string, wanted?: WantedTakes) => Promise<boolean>;
  /** Says something else in the place of a visitor's message. */
  change: (message: LineMessage, text: string) => Promise<boolean>;
  /** Adds a take by hand, which puts another right. */
  write: (message: string, text: string, corrects: string) => Promise<boolean>;
  /** Shows the line through a message. */
  show: (message: string) => Promise<boolean>;
  name: (message: string, name: string | null) => Promise<boolean>;
  remove: (message: string) => Promise<boolean>;
  /** Draws a line below a reply, or takes it away. @param by whose memory alone is cleared; null for that of all */
  clear: (reply: string, isClear: boolean, by: Candidate | null) => Promise<boolean>;
  /** Carries a turn wherever it stands, or no more. */
  pin: (message: string, isPin: boolean) => Promise<boolean>;
  /** Has older turns summed up, on the draft. */
  sumUp: () => Promise<boolean>;
  stopSumming: () => Promise<boolean>;
  correctSummary: (summary: string, text: string) => Promise<boolean>;
}

export function actsOn(conversation: ConversationStore, draft: DraftStore): Acts {
  const { change, ask, id } = conversation;
  return {
    goOn: (reply) => ask({ goOn: reply }),
    again: (message, { count, by } = { count: 1, by: undefined }) =>
      ask({ again: message, count: count > 1 ? count : undefined, with: by }),
    change: ({ parent, pieces }, text) => ask({ message: withPictures(pieces, text), conversation: id, after: parent }),
    write: (message, text, corrects) =>
      change(() => server.send(branches.write, { id: message, body: { text, corrects } })),
    show: (message) => change(() => server.send(branches.show, { id: message })),
    name: (message, name) => change(() => server.send(branches.name, { id: message, body: { name } })),
    remove: (message) => change(() => server.send(branches.delete, { id: message })),
    clear: (reply, isClear, by) =>
      change(() => server.send(isClear ? branches.clear : branches.unclear, { id: reply, ...by })),
    pin: (message, isPin) => change(() => server.send(isPin ? branches.pin : branches.unpin, { id: message })),
    sumUp: () =>
      change(async () => {
        await draft.save();
        await server.send(summaries.make, { id });
      }),
    stopSumming: () => change(() => server.send(summaries.stop, { id })),
    correctSummary: (summary, text) => change(() => server.send(summaries.correct, { id: summary, body: { text } })),
  };
}

/** A message said in another way: its pictures stay as they are. */
function withPictures(pieces: readonly Piece[], text: string): MessageCall["message"] {
  return messageOf(
    pieces.filter((piece) => piece.kind === "picture"),
    text,
  );
}
