import { z } from "zod";
import type { Message } from "../conversation/message";
import { kindsOf, pieceKinds } from "../conversation/pieces";
import { sumSchema } from "../conversation/sum";
import { candidateSchema } from "../reply/events";
import { isUnderWay, replyStates } from "../reply/reply";
import { countsSchema } from "../tokens/counts";

/** A message as the reach sees it: without its text. */
export const rowSchema = z.object({
  id: z.string(),
  turn: z.int(),
  role: z.enum(["visitor", "app"]),
  /** Of a reply. */
  state: z.enum(replyStates).nullable(),
  counts: countsSchema,
  /** Of all answered turns up to this row: a reply's own turn included, a question's not. */
  soFar: sumSchema,
  /** The kinds of its pieces that hold something. */
  kinds: z.array(z.enum(pieceKinds)),
  /** Who answered. */
  by: candidateSchema.nullable(),
});
export type Row = z.infer<typeof rowSchema>;

/** Pinned turns that a conversation may have: each is looked for whenever its line is read. */
export const mostPins = 50;

/** A turn that is carried wherever it stands: a visitor's message, and the reply to it in this line. */
export const pinnedTurnSchema = z.object({ visitor: rowSchema, reply: rowSchema });
export type PinnedTurn = z.infer<typeof pinnedTurnSchema>;

/** A message without its text. */
export function rowOf(message: Message): Row {
  const { id, turn, role, counts, soFar } = message;
  const kinds = kindsOf(message);
  if (message.role === "visitor") return { id, turn, role, state: null, counts, soFar, kinds, by: null };
  const { provider, model } = message.facts;
  return { id, turn, role, state: message.state, counts, soFar, kinds, by: { provider, model } };
}

/** Whether a reply says something, or still may. */
export function isAnswer(reply: Row): boolean {
  return reply.kinds.length > 0 || (reply.state !== null && isUnderWay(reply.state));
}
