import type { Ledger } from "@/core/context/assemble";
import type { Usage } from "@/core/reply/events";
import type { Prices } from "@/core/tokens/price";
import type { Database } from "../database/database";

/** A request as it is kept: the key hidden. */
export interface KeptRequest {
  method: string;
  url: string;
  headers: Record<string, string>;
  body: string;
}

/** What is known of a dispatch when it begins. */
export interface BegunDispatch {
  id: string;
  reply: string;
  provider: string;
  model: string;
  profileHash: string;
  request: KeptRequest;
  ledger: Ledger;
  prices: Prices;
  startedAt: number;
}

/** Bytes of an answer that are written together. */
export interface Chunk {
  dispatch: string;
  seq: number;
  /** Milliseconds after the start of the dispatch, of the first arrival. */
  at: number;
  /** `at:length` of each arrival, parted by spaces. */
  arrivals: string;
  bytes: Buffer;
}

/** Dispatches, and the bytes that they got. */
export class DispatchStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO dispatches (id, reply_id, provider, model, profile_hash, request, ledger, prices, started_at)
         VALUES (@id, @reply, @provider, @model, @profileHash, @request, @ledger, @prices, @startedAt)`,
      ),
      finish: database.prepare(
        "UPDATE dispatches SET status = @status, outcome = @outcome, usage = @usage, ended_at = @endedAt WHERE id = @id",
      ),
      chunk: database.prepare(
        "INSERT INTO dispatch_chunks (dispatch_id, seq, at, arrivals, bytes) VALUES (?, ?, ?, ?, ?)",
      ),
    };
  }

  begin(dispatch: BegunDispatch): void {
    const { request, ledger, prices, ...rest } = dispatch;
    this.sql.insert.run({
      ...rest,
      request: JSON.stringify(request),
      ledger: JSON.stringify(ledger),
      prices: JSON.stringify(prices),
    });
  }

  addChunk({ dispatch, seq, at, arrivals, bytes }: Chunk): void {
    this.sql.chunk.run(dispatch, seq, at, arrivals, bytes);
  }

  finish(ended: {
    id: string;
    status: number | null;
    outcome: object;
    usage: Usage | undefined;
    endedAt: number;
  }): void {
    this.sql.finish.run({
      ...ended,
      outcome: JSON.stringify(ended.outcome),
      usage: ended.usage ? JSON.stringify(ended.usage) : null,
    });
  }
}
