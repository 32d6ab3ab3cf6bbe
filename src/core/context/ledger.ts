import { z } from "zod";
import type { Piece } from "../conversation/pieces";
import { placeSchema } from "../sources/found";
import { tokensOf } from "../tokens/calibration";
import { countsOfPieces, holdingSchema } from "../tokens/counts";
import { judgedRows, type Reached, whyOut } from "./judged";
import { leadSchema } from "./lead";
import { policyOf } from "./policies/policies";
import type { Part, Reach, SummaryPart } from "./reach";
import { reasonSchema } from "./reason";

const judged = { tokens: z.int(), carried: z.boolean(), reason: reasonSchema };
const turns = z.tuple([z.int(), z.int()]);

/** One line of the ledger: a part of the context, its estimated tokens, in or out, and why. */
export const ledgerEntrySchema = z.discriminatedUnion("part", [
  /** What stands beside the line, by its kind: the prompt, tools, the opening, and so on. */
  z.object({ part: z.literal("beside"), kind: z.string(), ...judged, count: z.int().optional() }),
  /** A passage that the message found: its rank among them from 1, and its mark where it is carried. */
  z.object({
    part: z.literal("passage"),
    ...judged,
    passage: z.string(),
    source: z.string(),
    title: z.string(),
    where: placeSchema,
    rank: z.int(),
    likeness: z.number(),
    mark: z.string(),
    whole: z.enum(["text", "digest"]).optional(),
  }),
  /** A summary of the turns up to one; turn 0 where there is none. */
  z.object({ part: z.literal("summary"), ...judged, id: z.string(), turn: z.int() }),
  /** Messages of long ago, together. */
  z.object({ part: z.literal("above"), ...judged, turns, count: z.int() }),
  /** A pinned turn that stands above the messages which have lines of their own. */
  z.object({ part: z.literal("pin"), ...judged, first: z.string(), last: z.string(), turns, count: z.int() }),
  /** Neighbouring messages of which the same is to be said; of those of late, each has a line of its own. */
  z.object({ part: z.literal("messages"), ...judged, first: z.string(), last: z.string(), turns, count: z.int() }),
]);
export type LedgerEntry = z.infer<typeof ledgerEntrySchema>;

/** The itemised reach of one dispatch. */
export const ledgerSchema = z.object({
  entries: z.array(ledgerEntrySchema),
  /** Estimated tokens of all that is carried, put right for the model. */
  tokens: z.int(),
  /** Tokens that the estimate may have been off by to either side. */
  margin: z.int().optional(),
  /** What all of it holds, which calibration learns from. Not there in ledgers of long ago. */
  holding: holdingSchema.optional(),
  /** What stands for its beginning. Not there in ledgers of long ago. */
  lead: leadSchema.optional(),
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
export function ledgerOf(reach: Reach, unanswered: readonly { pieces: Piece[] }[], window: number): Ledger {
  const { summary, tokens, margin, holding } = reach;
  const entries = entriesBeside(reach, (stands) => stands === "first" || stands === "before");
  if (summary) entries.push(summaryEntry(summary));
  else if (isWithoutSummary(reach))
    entries.push({ part: "summary", id: "", turn: 0, tokens: 0, carried: false, reason: { kind: "no-summary" } });
  entries.push(...entriesAbove(reach, unanswered));
  const rows = judgedRows(reach);
  const ownLineFrom = rows.length - itemised;
  rows.forEach((row, at) => {
    const before = entries.at(-1);
    if ((at < ownLineFrom || !row.carried) && before?.part === "messages" && isSame(before, row)) {
      before.last = row.row.id;
      before.turns[1] = row.row.turn;
      before.count += 1;
      before.tokens += row.tokens;
    } else entries.push(entryOf(row));
  });
  entries.push(...entriesBeside(reach, (stands) => stands === "after"), ...picturesLeftOut(reach));
  return { entries, tokens, margin, holding, window };
}

/** The lines of what stands beside the line, at some places. */
function entriesBeside({ parts }: Reach, isThere: (stands: Part["stands"]) => boolean): LedgerEntry[] {
  return parts
    .filter(({ kind, stands }) => isThere(stands) && kind !== "summary")
    .map(({ kind, tokens, carried, reason, count, passage }): LedgerEntry => {
      if (passage) {
        const { short: _short, version: _version, ...about } = passage;
        return { part: "passage", ...about, mark: carried ? about.mark : "", tokens, carried, reason };
      }
      const isEmpty = kind === "prompt" && tokens === 0;
      const fate = isEmpty ? { carried: false, reason: { kind: "no-prompt" } as const } : { carried, reason };
      return { part: "beside", kind, tokens, ...fate, count };
    });
}

function summaryEntry({ id, turn, tokens, carried, reason }: SummaryPart): LedgerEntry {
  return { part: "summary", id, turn, tokens, carried, reason };
}

/** A line for pictures of what is carried, where the API is not sent them. */
function picturesLeftOut({ holding, whole }: Reach): LedgerEntry[] {
  const count = whole.counts.pictures - holding.counts.pictures;
  if (count === 0) return [];
  return [{ part: "beside", kind: "pictures", tokens: 0, carried: false, reason: { kind: "no-place" }, count }];
}

/** Whether older turns would be carried in a summary, and there is none of them. */
function isWithoutSummary({ track: { memory, turns }, above, summary }: Reach): boolean {
  const inFull = policyOf(memory).inFull?.(memory);
  return inFull !== undefined && summary === null && (turns.length > inFull || above.fate !== "none");
}

function isSame(entry: LedgerEntry, { reason, carried }: Reached): boolean {
  return entry.reason.kind === reason.kind && entry.carried === carried;
}

/** What is said of all that stands above the rows. */
function entriesAbove(reach: Reach, unanswered: readonly { pieces: Piece[] }[]): LedgerEntry[] {
  const { above, track, pins } = reach;
  const { rows, pinned = [] } = track.atHand;
  const { cleared } = track;
  const first = rows[0];
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
  if (above.fate === "none") return entries;
  const isCarried = above.fate === "carried";
  const lastTurn = first.turn - 1;
  const turns: [number, number] = [(cleared?.turn ?? 0) + 1, lastTurn];
  const pinsAbove = pinned.filter(({ visitor }) => visitor.turn <= lastTurn && pins.has(visitor.id));
  const pinnedTokens = pinsAbove.reduce((sum, { visitor }) => sum + (pins.get(visitor.id)?.tokens ?? 0), 0);
  entries.push({
    part,
    turns,
    count: above.messages - pinsAbove.length * 2,
    tokens: above.tokens - pinnedTokens,
    carried: isCarried,
    reason: isCarried ? { kind: "remembered" } : whyOut(reach, -1),
  });
  for (const { visitor, reply } of pinsAbove) {
    const judged = pins.get(visitor.id);
    if (judged)
      entries.push({
        part: "pin",
        ...judged,
        first: visitor.id,
        last: reply.id,
        turns: [visitor.turn, visitor.turn],
        count: 2,
      });
  }
  const outTokens = unanswered.reduce(
    (sum, message) =>
      sum + Math.round(tokensOf({ counts: countsOfPieces(message.pieces), messages: 1 }, track.calibration)),
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
