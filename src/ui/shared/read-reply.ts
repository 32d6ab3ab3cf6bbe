import type { LineMessage } from "@/contract/conversations";
import { isUnderWay } from "@/core/reply/reply";
import type { ReadReply } from "./live-replies";

/** A reply of the line as it stood when it was read. */
export function readReplyOf(message: Extract<LineMessage, { role: "app" }>): ReadReply {
  const { thought = "", usage, problem } = message.facts;
  return {
    id: message.id,
    cursor: isUnderWay(message.state) ? (message.cursor ?? 0) : Number.MAX_SAFE_INTEGER,
    reply: { state: message.state, pieces: message.pieces, thought, usage, problem, next: message.next },
  };
}
