import { z } from "zod";
import type { Reach, Reached } from "./reach";
import { reasonSchema } from "./reason";

const judged = { tokens: z.int(), carried: z.boolean(), reason: reasonSchema };

/** One line of the ledger: a part of the context, its estimated tokens, in or out, and why. */
export const ledgerEntrySchema = z.discriminatedUnion("part", [
  z.object({ part: z.literal("prompt"), ...judged }),
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

/** The ledger of what a dispatch reaches. */
export function ledgerOf({ rows, prompt, tokens, rawTokens }: Reach, window: number): Ledger {
  const entries: LedgerEntry[] = [
    { part: "prompt", tokens: prompt, carried: prompt > 0, reason: { kind: prompt > 0 ? "prompt" : "no-prompt" } },
  ];
  const ownLineFrom = rows.length - itemised;
  rows.forEach((reached, at) => {
    const before = entries.at(-1);
    if (at < ownLineFrom && before?.part === "messages" && before.reason.kind === reached.reason.kind) {
      before.last = reached.row.id;
      before.turns[1] = reached.row.turn;
      before.count += 1;
      before.tokens += reached.tokens;
    } else entries.push(entryOf(reached));
  });
  return { entries, tokens, rawTokens, window };
}

function entryOf({ row: { id, turn }, tokens, carried, reason }: Reached): LedgerEntry {
  return { part: "messages", first: id, last: id, turns: [turn, turn], count: 1, tokens, carried, reason };
}
