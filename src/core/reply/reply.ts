import { type Piece, toolsIn, withPiece, withText } from "../conversation/pieces";
import type { Problem } from "../problem/problem";
import type { Cited } from "../sources/found";
import type { EndReason, NextAttempt, ReplyEvent, Usage } from "./events";

/** How a stored reply stands. */
export const replyStates = [
  "waiting",
  "arriving",
  "complete",
  "cut",
  "stopped",
  "refused",
  "failed",
  "interrupted",
] as const;
export type ReplyState = (typeof replyStates)[number];

/** A reply as its events tell it so far. */
export interface Reply {
  state: ReplyState;
  pieces: Piece[];
  thought: string;
  /** The passages that it cites so far. */
  cites?: readonly Cited[];
  usage?: Usage;
  problem?: Problem;
  /** The further attempt that is being waited for or made; none once there is text. */
  next?: NextAttempt;
}

/** A reply of which nothing has come yet. */
export const emptyReply: Reply = { state: "waiting", pieces: [], thought: "" };

/** The reply after one more event; the one before stays as it was. */
export function fold(reply: Reply, event: ReplyEvent): Reply {
  switch (event.event) {
    case "reply":
      return reply;
    case "attempt":
      return { ...reply, next: event.data, ...(event.data.anew ? { pieces: toolsIn(reply) } : {}) };
    case "text":
      return { ...reply, state: "arriving", pieces: withText(reply.pieces, event.data.text) };
    case "tool":
      return { ...reply, state: "arriving", pieces: withPiece(reply.pieces, { kind: "tool", ...event.data }) };
    case "picture":
      return { ...reply, state: "arriving", pieces: withPiece(reply.pieces, { kind: "picture", ...event.data }) };
    case "data":
      return { ...reply, state: "arriving", pieces: withPiece(reply.pieces, { kind: "data", ...event.data }) };
    case "source":
      return { ...reply, cites: [...(reply.cites ?? []), event.data] };
    case "thought":
      return { ...reply, state: "arriving", thought: reply.thought + event.data.text };
    case "usage":
      return { ...reply, usage: event.data };
    case "end":
      return { ...reply, state: stateOfEnd(event.data.reason) };
    case "problem":
      return {
        ...reply,
        state: event.data.kind === "interrupted" ? "interrupted" : "failed",
        problem: event.data,
        // what came of it is no data of the kind that was wanted
        ...(event.data.kind === "unfit" ? { pieces: reply.pieces.filter(({ kind }) => kind !== "data") } : {}),
      };
  }
}

/** The state of a reply that ended for a reason. */
export function stateOfEnd(reason: EndReason): ReplyState {
  if (reason === "length") return "cut";
  if (reason === "stopped" || reason === "refused") return reason;
  return "complete";
}

/** Whether more of a reply may still come. */
export function isUnderWay(state: ReplyState): boolean {
  return state === "waiting" || state === "arriving";
}

/** Whether a reply can be gone on from. */
export function canGoOn(state: ReplyState): boolean {
  return state === "cut" || state === "stopped" || state === "interrupted";
}
