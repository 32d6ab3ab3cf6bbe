import type { Asked, Pinned } from "@/core/context/assemble";
import type { Home } from "../home";

/** What hangs on a line: its last clear, and its pinned turns. @param end the end of the line */
export function hangingOn(
  { branches, pins, conversations }: Pick<Home, "branches" | "pins" | "conversations">,
  conversation: string,
  end: string,
): Required<Pick<Asked, "clear" | "pinned">> {
  const pinned = pins.ofConversation(conversation).flatMap(({ message, depth }): Pinned[] => {
    if (branches.ancestorAt(conversation, end, depth) !== message) return [];
    const below = branches.ancestorAt(conversation, end, depth + 1);
    const [visitor, reply] = [conversations.message(message), below && conversations.message(below)];
    return visitor && reply ? [{ visitor, reply }] : [];
  });
  return { clear: branches.clearAbove(conversation, end), pinned };
}
