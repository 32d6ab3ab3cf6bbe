import type { SummaryAtHand } from "@/core/context/summary";
import type { Candidate } from "@/core/reply/events";
import { countsOf } from "@/core/tokens/counts";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** A summary of older turns of a line as it is stored. */
export interface StoredSummary extends SummaryAtHand {
  /** The last reply that it covers. */
  message: string;
  text: string;
  /** What stands for the model that was to make it, and for its prompt. */
  recipe: string;
  /** Whether the developer put it right. */
  isCorrected: boolean;
  /** Whether it ended at the output limit. */
  isCut: boolean;
  /** Who made it. */
  maker: Candidate;
  /** What that cost; null where nothing was counted. */
  price: { amount: number; currency: string } | null;
  /** Null where its dispatches are gone. */
  making: string | null;
  /** Epoch milliseconds. */
  at: number;
}

export type NewSummary = Omit<StoredSummary, "id" | "turn" | "counts" | "isCorrected"> & { conversation: string };

interface SummaryRow {
  id: string;
  message_id: string;
  turn: number;
  clear_id: string | null;
  answered_by: string | null;
  left_out: string;
  text: string;
  counts: string;
  recipe: string;
  is_corrected: number;
  is_cut: number;
  provider: string;
  model: string;
  price: number | null;
  currency: string | null;
  making_id: string | null;
  at: number;
}

/** Summaries of a line that are read: those of some hundreds of its newest turns. */
const mostRead = 100;

/** Messages above the end of a line among which a summary is looked for: it is read in the midst of a write. */
const mostWalked = 2_000;

const columns = `summaries.id, message_id, turn, clear_id, answered_by, left_out, text, summaries.counts, recipe,
  is_corrected, is_cut, provider, model, price, currency, making_id, summaries.at`;

/** Summaries, by the line that they are of. A new one takes no older one away: another line may hold what that covers. */
export class SummaryStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare(
        `INSERT INTO summaries (id, conversation_id, message_id, clear_id, answered_by, left_out, text, counts, recipe,
           is_cut, provider, model, price, currency, making_id, at)
         VALUES (@id, @conversation, @message, @clear, @answeredBy, @leftOut, @text, @counts, @recipe,
           @isCut, @provider, @model, @price, @currency, @making, @at)`,
      ),
      // served by summaries_by_conversation
      any: database.prepare<[string]>("SELECT 1 FROM summaries WHERE conversation_id = ? LIMIT 1").pluck(),
      // walks up the line until enough is found, and so far at most; served by summaries_by_message
      ofLine: database.prepare<[string, number, number], SummaryRow>(
        `WITH RECURSIVE up (id, parent, steps) AS (
           SELECT id, parent_id, 0 FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id, steps + 1 FROM up JOIN messages ON messages.id = up.parent
             WHERE steps < ?
         ) SELECT ${columns} FROM up CROSS JOIN summaries ON message_id = up.id JOIN messages ON messages.id = message_id
           WHERE is_leaving = 0 LIMIT ?`,
      ),
      byId: database.prepare<[string], SummaryRow & { conversation_id: string }>(
        `SELECT ${columns}, summaries.conversation_id FROM summaries JOIN messages ON messages.id = message_id
         WHERE summaries.id = ? AND is_leaving = 0`,
      ),
      correct: database.prepare("UPDATE summaries SET text = ?, counts = ?, is_corrected = 1 WHERE id = ?"),
    };
  }

  /** Keeps a summary; gives its id. */
  add({ by, leftOut, isCut, maker, price, text, ...summary }: NewSummary): string {
    const id = newId("sum");
    this.sql.add.run({
      ...summary,
      ...maker,
      id,
      text,
      answeredBy: by && JSON.stringify(by),
      leftOut: JSON.stringify(leftOut),
      counts: JSON.stringify(countsOf(text)),
      isCut: isCut ? 1 : 0,
      price: price && Math.round(price.amount * 1_000_000),
      currency: price?.currency,
    });
    return id;
  }

  /** Those of the line that ends with a message, the newest first, as far as they are of its newest turns. */
  ofLine(conversation: string, end: string): StoredSummary[] {
    if (this.sql.any.get(conversation) === undefined) return [];
    return this.sql.ofLine
      .all(end, mostWalked, mostRead)
      .map(read)
      .sort((a, b) => b.turn - a.turn || (a.id < b.id ? 1 : -1));
  }

  byId(id: string): (StoredSummary & { conversation: string }) | undefined {
    const row = this.sql.byId.get(id);
    return row && { ...read(row), conversation: row.conversation_id };
  }

  /** Puts the words of a summary right. */
  correct(id: string, text: string): void {
    this.sql.correct.run(text, JSON.stringify(countsOf(text)), id);
  }
}

function read(row: SummaryRow): StoredSummary {
  const { id, turn, text, recipe, provider, model, price, currency, at } = row;
  return {
    id,
    message: row.message_id,
    turn,
    clear: row.clear_id,
    by: row.answered_by === null ? null : JSON.parse(row.answered_by),
    leftOut: JSON.parse(row.left_out),
    counts: JSON.parse(row.counts),
    text,
    recipe,
    isCorrected: row.is_corrected === 1,
    isCut: row.is_cut === 1,
    maker: { provider, model },
    price: price === null || currency === null ? null : { amount: price / 1_000_000, currency },
    making: row.making_id,
    at,
  };
}

/** A parameter that has `summaries`. */
export interface HasSummaries {
  summaries: SummaryStore;
}
