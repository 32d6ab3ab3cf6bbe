import type { CallerMessage } from "@/contract/conversations";
import type { PicturePiece, Piece } from "@/core/conversation/pieces";
import { isInner, type Problem, problem, titleOf } from "@/core/problem/problem";
import type { NumberedEvent, Usage } from "@/core/reply/events";
import { type Told, type ToldAttempt, toldCall, toldEvent, toldSpeaker, toldUsage } from "@/core/reply/told";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasUploads } from "../entrance/upload-store";
import type { StoredEvent } from "../live/event-store";

/**
 * A problem as callers are told it. What failed between Unruly Finch and a provider is the developer's to
 * know: callers get its kind, and how long to wait, but no address, no setting and no word of the provider.
 */
export function problemForCaller(failure: Problem): Problem {
  if (!isInner(failure.kind)) return failure;
  const { retryAfter } = failure;
  return problem(failure.kind, `${titleOf(failure.kind)}.`, {
    advice: "Try again later. Whoever runs this app finds the reason beside the reply, at the bench.",
    ...(retryAfter === undefined ? {} : { retryAfter }),
  });
}

/** The id under which whoever holds a reply's conversation knows a picture of it; undefined where nobody does. */
export function pictureIds(
  { conversations, uploads }: HasConversations & HasUploads,
  reply: string,
): (hash: string) => string | undefined {
  return (hash) => {
    const visitor = conversations.conversationOf(reply)?.visitor;
    return visitor ? uploads.idFor(visitor, hash, Date.now()) : undefined;
  };
}

/**
 * An event as a caller gets it; undefined where the caller is told nothing of it.
 * @param fileOf the id under which the caller knows a picture
 */
export function eventForCaller(
  event: StoredEvent,
  told: Told,
  fileOf: (hash: string) => string | undefined,
): StoredEvent | undefined {
  switch (event.event) {
    case "picture": {
      const { file: hash, ...picture } = JSON.parse(event.data) as PicturePiece;
      const file = fileOf(hash);
      return file === undefined ? undefined : { ...event, data: JSON.stringify({ file, ...picture }) };
    }
    case "text":
    case "end":
      return event;
    case "problem":
      return { ...event, data: JSON.stringify(problemForCaller(JSON.parse(event.data))) };
    case "thought":
      return told.thoughts ? event : undefined;
    default: {
      const data = toldEvent({ event: event.event, data: JSON.parse(event.data) } as NumberedEvent, told);
      if (data === undefined) return undefined;
      if (event.event !== "attempt") return { ...event, data: JSON.stringify(data) };
      const next = data as ToldAttempt;
      return { ...event, data: JSON.stringify({ ...next, because: problemForCaller(next.because) }) };
    }
  }
}

/**
 * A message of a conversation as a caller gets it.
 * @param fileOf the id under which the caller knows a picture; one that it does not know is left out
 */
export function messageForCaller(
  message: CallerMessage,
  told: Told,
  fileOf: (hash: string) => string | undefined,
): CallerMessage {
  const pieces = message.pieces.flatMap((piece): Piece[] => {
    if (piece.kind === "tool") return [toldCall(piece, told)].filter((call) => call !== undefined);
    if (piece.kind !== "picture") return [piece];
    const file = fileOf(piece.file);
    return file === undefined ? [] : [{ ...piece, file }];
  });
  const { tokens, ...rest } = { ...message, pieces };
  const counted = told.counts ? { tokens } : {};
  if (rest.role === "visitor") return { ...rest, ...counted };
  const { facts, next } = rest;
  const { thought, usage, problem, ...others } = facts;
  const cost = usage && toldUsage(usage as Usage, told);
  return {
    ...rest,
    ...counted,
    ...(next ? { next: toldSpeaker({ ...next, because: problemForCaller(next.because) }, told) } : {}),
    facts: {
      ...toldSpeaker(others, told),
      ...(thought !== undefined && told.thoughts ? { thought } : {}),
      ...(cost ? { usage: cost } : {}),
      ...(problem ? { problem: problemForCaller(problem) } : {}),
    },
  };
}
