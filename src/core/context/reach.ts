import { type Message, textOf } from "../conversation/message";
import { isUnderWay } from "../reply/reply";
import type { Memory } from "../revision/revision";

/** Whether the next dispatch carries a message, and why. */
export interface Reached {
  message: Message;
  carried: boolean;
  why: string;
}

/**
 * What of a line the next dispatch carries. A turn without an answer is kept and shown, but not
 * carried: the model would meet two visitor's messages in a row.
 * @param line messages in order, each visitor's message followed by its reply if it has one
 */
export function reach(line: Message[], memory: Memory): Reached[] {
  return line.map((message, at) => {
    const reply = message.role === "app" ? message : line[at + 1];
    if (reply?.role === "app" && !isUnderWay(reply.state) && textOf(reply).trim() === "")
      return { message, carried: false, why: "not carried: the turn has no answer" };
    if (message.role === "visitor" && reply === undefined) return { message, carried: true, why: "the message itself" };
    return { message, carried: true, why: reasons[memory.kind] };
  });
}

const reasons: Record<Memory["kind"], string> = { everything: "carried: everything is" };
