import { z } from "zod";
import { type Piece, textOf } from "../conversation/pieces";
import { countsOf, rawTokens, tokensPerMessage } from "../tokens/counts";
import type { Reach, Reached } from "./reach";
import { reasonSchema } from "./reason";

const judged = { tokens: z.int(), carried: z.boolean(), reason: reasonSchema };

/** One line of the ledger: a part of the context, its estimated tokens, in or out, and why. */
export const ledgerEntrySchema = z.discriminatedUnion("part", [
  z.object({ part: z.literal("prompt"), ...judged }),
  /** Messages of long ago, together. */
  z.object({ part: z.literal("above"), ...judged, turns: z.tuple([z.int(), z.int()]), count: z.int() }),
  /** Neighbouring messages of which the same is to be said; of those of late, each has a line of its own. */
  z.object({
    part: z.literal("messages"),
    ...judged,
    first: z.string(),
    last: z.string(),
    turns: z.tuple([z.int(), z.int()]),
    count: z.int(),
  }),
]);
export type LedgerEntry = z.infer<typeof ledgerEntrySchema>;

/** The itemised reach of one dispatch. */
export const ledgerSchema = z.object({
  entries: z.array(ledgerEntrySchema),
  /** Estimated tokens of all that is carried, put right for the model. */
  tokens: z.int(),
  /** The same before it was put right; what calibration learns from. */
  rawTokens: z.int(),
  /** The model's context window, in tokens. */
  window: z.int(),
});
export type Ledger = z.infer<typeof ledgerSchema>;

/** Messages of late that have a line of their own in the ledger. */
const itemised = 60;

/**
 * The ledger of what a dispatch reaches.
 * @param unanswered messages above the rows whose turns have no answer
 */
export function ledgerOf(reached: Reach, unanswered: readonly { pieces: Piece[] }[], window: number): Ledger {
  const { rows, prompt, tokens, rawTokens } = reached;
  const entries: LedgerEntry[] = [
    { part: "prompt", tokens: prompt, carried: prompt > 0, reason: { kind: prompt > 0 ? "prompt" : "no-prompt" } },
    ...entriesAbove(reached, unanswered),
  ];
  const ownLineFrom = rows.length - itemised;
  rows.forEach((row, at) => {
    const before = entries.at(-1);
    if (at < ownLineFrom && before?.part === "messages" && before.reason.kind === row.reason.kind) {
      before.last = row.row.id;
      before.turns[1] = row.row.turn;
      before.count += 1;
      before.tokens += row.tokens;
    } else entries.push(entryOf(row));
  });
  return { entries, tokens, rawTokens, window };
}

/** What is said of all that stands above the rows. */
function entriesAbove({ rows, above }: Reach, unanswered: readonly { pieces: Piece[] }[]): LedgerEntry[] {
  const first = rows[0]?.row;
  const { fate, tokens, messages, cleared } = above;
  if (!first) return [];
  const part = "above";
  const entries: LedgerEntry[] = [];
  if (cleared && cleared.messages > 0)
    entries.push({
      part,
      turns: [1, cleared.turn],
      count: cleared.messages,
      tokens: cleared.tokens,
      carried: false,
      reason: { kind: "cleared" },
    });
  if (fate === "none") return entries;
  const isCarried = fate === "carried";
  const turns: [number, number] = [(cleared?.turn ?? 0) + 1, first.role === "visitor" ? first.turn - 1 : first.turn];
  entries.push({
    part,
    turns,
    count: messages,
    tokens,
    carried: isCarried,
    reason: { kind: isCarried ? "remembered" : "not-remembered" },
  });
  const outTokens = unanswered.reduce(
    (sum, message) => sum + rawTokens(countsOf(textOf(message))) + tokensPerMessage,
    0,
  );
  const count = unanswered.length;
  if (count > 0)
    entries.push({ part, turns, count, tokens: outTokens, carried: false, reason: { kind: "unanswered" } });
  return entries;
}

function entryOf({ row: { id, turn }, tokens, carried, reason }: Reached): LedgerEntry {
  return { part: "messages", first: id, last: id, turns: [turn, turn], count: 1, tokens, carried, reason };
}
