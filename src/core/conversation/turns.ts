import type { AppMessage, Message, VisitorMessage } from "./message";

/** A visitor's message and the shown take of the reply to it, if there is one. */
export interface Turn {
  /** Counted from 1 within the line. */
  number: number;
  visitor: VisitorMessage;
  reply: AppMessage | null;
}

/**
 * The turns of a line, which is a path of the message tree from its root, or a part of one.
 * @param line messages in order; a visitor's message is followed by its reply, if it has one
 */
export function turnsOf(line: readonly Message[]): Turn[] {
  const turns: Turn[] = [];
  for (const message of line) {
    if (message.role === "visitor") turns.push({ number: message.turn, visitor: message, reply: null });
    else {
      const turn = turns.at(-1);
      if (turn && turn.visitor.id === message.parent) turn.reply = message;
    }
  }
  return turns;
}
