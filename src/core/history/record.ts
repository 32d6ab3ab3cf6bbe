import { z } from "zod";
import { replyFactsSchema } from "../conversation/message";
import { dataPiece, linkedPiece, picturePiece, textPiece, toolPiece } from "../conversation/pieces";
import { candidateSchema } from "../reply/events";
import { replyStates } from "../reply/reply";

/**
 * A message as a line of an exported history (JSON Lines: a JSON value a line, UTF-8). Numbers are the file's own: of
 * conversations in it, and of messages in a conversation, from 1. A line by hand needs `role` and `text` alone.
 */

/** A piece with all that belongs to it: a picture with its bytes, in base64. */
const pieceRecord = z.discriminatedUnion("kind", [
  textPiece.strict(),
  toolPiece.strict(),
  dataPiece.strict(),
  linkedPiece.strict(),
  picturePiece.omit({ file: true }).extend({ bytes: z.base64() }).strict(),
]);
export type PieceRecord = z.infer<typeof pieceRecord>;

const number = z.int().min(1);
const text = z.string().max(16 * 1024 * 1024);

/** What a line says of its conversation; it stands on the first line of one. */
const aboutSchema = z.strictObject({
  title: z.string().min(1).max(160).optional(),
  origin: z.enum(["bench", "page", "http", "terminal", "job", "imported"]).optional(),
  client: z.string().max(100).optional(),
  note: z.string().max(20_000).optional(),
  tags: z.array(z.string().min(1).max(40)).max(20).optional(),
  createdAt: z.iso.datetime().optional(),
  updatedAt: z.iso.datetime().optional(),
  /** What all of its replies cost. */
  price: z.number().min(0).max(1e9).optional(),
  currency: z.string().max(8).optional(),
});
export type About = z.infer<typeof aboutSchema>;

/** What of the making of a reply goes along. */
const madeSchema = replyFactsSchema
  .pick({
    thought: true,
    usage: true,
    problem: true,
    hand: true,
    firstTextMs: true,
    totalMs: true,
    attempts: true,
    rounds: true,
    insteadOf: true,
  })
  .extend({ revision: z.int().min(0).max(1e9), provider: z.string().max(200), model: z.string().max(200) })
  .strict();
export type MadeRecord = z.infer<typeof madeSchema>;

const roles = { visitor: "visitor", app: "app", user: "visitor", assistant: "app" } as const;

export const recordSchema = z.strictObject({
  /** The conversation that it belongs to; the same as on the line before where it is left out. */
  conversation: z.union([z.int(), z.string().max(200)]).optional(),
  about: aboutSchema.optional(),
  message: number.optional(),
  /** The message that it comes after, null for none; the line before where it is left out. */
  after: number.nullable().optional(),
  role: z.enum(["visitor", "app", "user", "assistant"]).transform((role) => roles[role]),
  text,
  /** All of it, where it holds more than text; `text` is then what is left of it for whoever reads nothing else. */
  pieces: z.array(pieceRecord).min(1).max(1_000).optional(),
  at: z.iso.datetime().optional(),
  /** Of a reply. */
  state: z.enum(replyStates).exclude(["waiting", "arriving"]).optional(),
  /** Tokens of a reply as its provider counted them. */
  tokens: z.int().min(0).max(1e9).optional(),
  made: madeSchema.optional(),
  /** The reply that this one goes on from, and holds. */
  continues: number.optional(),
  /** The name of the branch that begins here. */
  branch: z.string().min(1).max(80).optional(),
  /** Whether it is the one that is shown of several. */
  shown: z.literal(true).optional(),
  /** Whether the line that is shown ends with it. */
  tip: z.literal(true).optional(),
  /** Whether nothing above it is carried after it. */
  clear: z.literal(true).optional(),
  /** To which models alone that holds. */
  clearFor: z.array(candidateSchema.strict()).max(50).optional(),
  /** Whether its turn is carried wherever it stands. */
  pin: z.literal(true).optional(),
  ratings: z
    .strictObject({ visitor: z.enum(["good", "bad"]).optional(), bench: z.enum(["good", "bad"]).optional() })
    .optional(),
});
export type MessageRecord = z.input<typeof recordSchema>;
export type ReadRecord = z.output<typeof recordSchema>;

/** A record as its line. */
export function lineOf(record: MessageRecord): string {
  return `${JSON.stringify(record)}\n`;
}
