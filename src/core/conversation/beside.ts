import type { Message } from "./message";
import { wordsOf } from "./pieces";

/** Two messages in the same place of two lines; one is missing where a line is shorter. */
export interface Pair<M extends Pick<Message, "id" | "pieces"> = Message> {
  left: M | undefined;
  right: M | undefined;
  /** How they compare: one and the same, other messages that say the same, or not. */
  is: "one" | "same" | "different";
}

/** Two lines beside each other, message by message. */
export function pairsOf<M extends Pick<Message, "id" | "pieces">>(left: readonly M[], right: readonly M[]): Pair<M>[] {
  return Array.from({ length: Math.max(left.length, right.length) }, (_, at): Pair<M> => {
    const [one, other] = [left[at], right[at]];
    return { left: one, right: other, is: compared(one, other) };
  });
}

function compared<M extends Pick<Message, "id" | "pieces">>(left: M | undefined, right: M | undefined): Pair["is"] {
  if (!left || !right) return "different";
  if (left.id === right.id) return "one";
  return wordsOf(left) === wordsOf(right) ? "same" : "different";
}
