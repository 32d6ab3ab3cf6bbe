import { createHash } from "node:crypto";
import { gunzipSync, gzipSync } from "node:zlib";
import type { DispatchNote } from "@/core/reply/note";
import type { Database } from "../database/database";
import { newId } from "../ground/id";
import type { BegunDispatch, EndedDispatch, Purpose } from "../making/types";

/** A dispatch as it is stored. */
export type StoredDispatch = Omit<BegunDispatch, "profileText" | "providerId"> &
  Omit<EndedDispatch, "outcome" | "endedAt" | "counted" | "version"> & {
    making: string;
    providerId: string | null;
    outcome: EndedDispatch["outcome"] | null;
    endedAt: number | null;
    /** The wire profile that it was made with. */
    profileText: string | null;
    /** Milliseconds after the start and number of bytes of each arrival. */
    arrivals: [at: number, length: number][];
    /** The bytes of the answer; null once they were thinned out. */
    bytes: Buffer | null;
    /** What came at the reader's end: how long after the reader asked, and how many characters of text. */
    reader: [at: number, length: number][] | null;
  };

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

/** Bytes from which on a chunk is packed as it is written. */
const packedFrom = 4096;

interface ChunkRow {
  arrivals: string;
  bytes: Buffer;
  is_packed: number;
}

interface Row {
  id: string;
  making_id: string;
  round: number;
  attempt: number;
  provider_id: string | null;
  provider: string;
  model: string;
  request: string;
  ledger: string | null;
  prices: string;
  status: number | null;
  headers: string | null;
  outcome: string | null;
  usage: string | null;
  notes: string;
  started_at: number;
  ended_at: number | null;
  arrivals: string | null;
  packed: Buffer | null;
  reader: string | null;
  profile: string | null;
}

/** Dispatches, and the bytes that they got: as they come in chunks, packed when they have ended. */
export class DispatchStore {
  private readonly sql;

  constructor(database: Database) {
    const whole = "SELECT d.*, p.source AS profile FROM dispatches d LEFT JOIN profiles p ON p.hash = d.profile_hash";
    this.sql = {
      keepProfile: database.prepare("INSERT OR IGNORE INTO profiles (hash, source) VALUES (?, ?)"),
      make: database.prepare("INSERT INTO makings (id, purpose, owner, at, message_id) VALUES (?, ?, ?, ?, ?)"),
      feed: database.prepare("INSERT INTO made_replies (reply_id, making_id, take) VALUES (?, ?, ?)"),
      insert: database.prepare(
        `INSERT INTO dispatches (id, making_id, round, attempt, provider_id, provider, model, profile_hash, request, ledger, prices, started_at)
         VALUES (@id, @making, @round, @attempt, @providerId, @provider, @model, @profileHash, @request, @ledger, @prices, @startedAt)`,
      ),
      finish: database.prepare(
        `UPDATE dispatches SET status = @status, headers = @headers, outcome = @outcome, usage = @usage, notes = @notes,
           ended_at = @endedAt WHERE id = @id`,
      ),
      // served by dispatches_unpacked
      unpacked: database.prepare<[], { id: string; notes: string }>(
        "SELECT id, notes FROM dispatches WHERE ended_at IS NOT NULL AND arrivals IS NULL LIMIT 1",
      ),
      pack: database.prepare("UPDATE dispatches SET arrivals = ?, packed = ? WHERE id = ?"),
      chunk: database.prepare(
        "INSERT OR REPLACE INTO dispatch_chunks (dispatch_id, seq, at, arrivals, bytes, is_packed) VALUES (?, ?, ?, ?, ?, ?)",
      ),
      chunks: database.prepare<[string], ChunkRow>(
        "SELECT arrivals, bytes, is_packed FROM dispatch_chunks WHERE dispatch_id = ? ORDER BY seq",
      ),
      emptyChunks: database.prepare("UPDATE dispatch_chunks SET bytes = x'', is_packed = 0 WHERE dispatch_id = ?"),
      dropChunks: database.prepare("DELETE FROM dispatch_chunks WHERE dispatch_id = ?"),
      underWay: database.prepare<[], { id: string; status: number | null }>(
        "SELECT id, status FROM dispatches WHERE ended_at IS NULL",
      ),
      byId: database.prepare<[string], Row>(`${whole} WHERE d.id = ?`),
      ofReply: database.prepare<[string], Row>(
        `${whole} JOIN made_replies r ON r.making_id = d.making_id WHERE r.reply_id = ? ORDER BY d.attempt`,
      ),
      ofMaking: database.prepare<[string], Row>(`${whole} WHERE d.making_id = ? ORDER BY d.attempt`),
      lastOf: database.prepare<[string], Row>(
        `${whole} WHERE d.provider_id = ? AND (d.packed IS NOT NULL OR d.arrivals IS NULL)
           AND d.ended_at IS NOT NULL AND d.status BETWEEN 200 AND 299 ORDER BY d.started_at DESC LIMIT 1`,
      ),
      setReader: database.prepare(
        `UPDATE dispatches SET reader = ? WHERE id = (
           SELECT id FROM dispatches JOIN made_replies USING (making_id) WHERE reply_id = ? ORDER BY attempt DESC LIMIT 1
         )`,
      ),
      sizes: database.prepare<[], { count: number; bytes: number }>(
        "SELECT count(*) AS count, coalesce(sum(length(packed)), 0) AS bytes FROM dispatches WHERE packed IS NOT NULL",
      ),
      // goes through them by primary key
      thinnable: database
        .prepare<[string, number, number], string>(
          "SELECT id FROM dispatches WHERE id > ? AND packed IS NOT NULL AND started_at < ? ORDER BY id LIMIT ?",
        )
        .pluck(),
      thin: database.prepare<[string]>(
        "UPDATE dispatches SET packed = NULL, request = json_remove(request, '$.body') WHERE id = ?",
      ),
    };
  }

  /**
   * Begins a making, and gives its id.
   * @param replies the replies that it feeds, by their takes
   * @param message with which it is deleted, where it feeds none
   */
  make(
    purpose: Purpose,
    owner: string | null,
    replies: readonly string[],
    now: number,
    message: string | null = null,
  ): string {
    const id = newId("mak");
    this.sql.make.run(id, purpose, owner, now, message);
    for (const [take, reply] of replies.entries()) this.sql.feed.run(reply, id, take);
    return id;
  }

  begin(making: string, dispatch: BegunDispatch): void {
    const { request, ledger, prices, profileText, ...rest } = dispatch;
    const profileHash = createHash("sha256").update(profileText).digest("hex");
    this.sql.keepProfile.run(profileHash, profileText);
    this.sql.insert.run({
      ...rest,
      making,
      profileHash,
      request: JSON.stringify(request),
      ledger: ledger && JSON.stringify(ledger),
      prices: JSON.stringify(prices),
    });
  }

  addChunk({ dispatch, seq, at, arrivals, bytes }: Chunk): void {
    const isPacked = bytes.length >= packedFrom;
    this.sql.chunk.run(dispatch, seq, at, arrivals, isPacked ? gzipSync(bytes, { level: 1 }) : bytes, isPacked ? 1 : 0);
  }

  /** Lets go of the bytes that a dispatch has got so far. */
  emptyChunks(dispatch: string): void {
    this.sql.emptyChunks.run(dispatch);
  }

  /** Ends a dispatch; its chunks stay as they are until they are packed. */
  finish({ id, status, headers, outcome, usage, notes, endedAt }: Omit<EndedDispatch, "version">): void {
    this.sql.finish.run({
      id,
      status,
      endedAt,
      headers: JSON.stringify(headers),
      outcome: JSON.stringify(outcome),
      usage: usage ? JSON.stringify(usage) : null,
      notes: JSON.stringify(notes),
    });
  }

  /** Packs the chunks of one dispatch that has ended; false when none is left. */
  packOne(): boolean {
    const next = this.sql.unpacked.get();
    if (!next) return false;
    const chunks = this.sql.chunks.all(next.id);
    const notes = JSON.parse(next.notes) as DispatchNote[];
    const arrivals = chunks.map((chunk) => chunk.arrivals).join(" ");
    this.sql.pack.run(arrivals, isInPieces(notes) ? null : packed(chunks), next.id);
    this.sql.dropChunks.run(next.id);
    return true;
  }

  /** Ends the dispatches that a dead process left. */
  endLeft(outcome: EndedDispatch["outcome"], now: number): void {
    for (const { id, status } of this.sql.underWay.all())
      this.finish({ id, status, headers: {}, outcome, usage: undefined, counted: [], notes: [], endedAt: now });
  }

  byId(id: string): StoredDispatch | undefined {
    const row = this.sql.byId.get(id);
    return row && this.read(row);
  }

  /** The attempts that a reply took, in order. */
  ofReply(reply: string): StoredDispatch[] {
    return this.sql.ofReply.all(reply).map((row) => this.read(row));
  }

  /** The attempts of a making, in order. */
  ofMaking(making: string): StoredDispatch[] {
    return this.sql.ofMaking.all(making).map((row) => this.read(row));
  }

  /** The last dispatch of a provider whose answer is kept. */
  lastOf(provider: string): StoredDispatch | undefined {
    const row = this.sql.lastOf.get(provider);
    return row && this.read(row);
  }

  /** Notes when the text of a reply arrived at its reader. */
  setReader(reply: string, arrivals: [number, number][]): void {
    this.sql.setReader.run(arrivals.map(([at, length]) => `${at}:${length}`).join(" "), reply);
  }

  /** How many dispatches keep their bytes, and how many bytes that takes. */
  sizes(): { count: number; bytes: number } {
    return this.sql.sizes.get() ?? { count: 0, bytes: 0 };
  }

  /**
   * Lets go of the bytes of some dispatches that were begun before a moment, after an id; ledger, usage and outcome
   * stay. Gives how many, and the last of them; none where none is left.
   */
  thinSome(before: number, after: string, count: number): { thinned: number; last: string | undefined } {
    const ids = this.sql.thinnable.all(after, before, count);
    for (const id of ids) this.sql.thin.run(id);
    return { thinned: ids.length, last: ids.at(-1) };
  }

  private read(row: Row): StoredDispatch {
    const chunks = row.arrivals === null ? this.sql.chunks.all(row.id) : [];
    const notes = JSON.parse(row.notes) as DispatchNote[];
    const arrivals = row.arrivals ?? chunks.map((chunk) => chunk.arrivals).join(" ");
    const { id, round, attempt, provider, model, status } = row;
    return {
      id,
      making: row.making_id,
      round,
      attempt,
      providerId: row.provider_id,
      provider,
      model,
      request: { body: "", ...JSON.parse(row.request) },
      ledger: row.ledger === null ? null : JSON.parse(row.ledger),
      prices: JSON.parse(row.prices),
      startedAt: row.started_at,
      status,
      headers: row.headers === null ? {} : JSON.parse(row.headers),
      outcome: row.outcome === null ? null : JSON.parse(row.outcome),
      usage: row.usage === null ? undefined : JSON.parse(row.usage),
      notes,
      endedAt: row.ended_at,
      profileText: row.profile,
      arrivals: pairsIn(arrivals),
      bytes: bytesOf(row, chunks, notes),
      reader: row.reader === null ? null : pairsIn(row.reader),
    };
  }
}

/** The bytes of an answer, packed or not yet; null where they were thinned out, or are not kept. */
function bytesOf(row: Row, chunks: ChunkRow[], notes: DispatchNote[]): Buffer | null {
  if (row.packed) return gunzipSync(row.packed);
  return row.arrivals !== null || isInPieces(notes) ? null : gunzipSync(packed(chunks));
}

/** Whether none of the bytes may be kept. */
function isInPieces(notes: DispatchNote[]): boolean {
  return notes.some(({ kind }) => kind === "secret-in-pieces");
}

/** Chunks as gzip members one after the other, which is one gzip file (RFC 1952, 2.2). */
function packed(chunks: ChunkRow[]): Buffer {
  const members: Buffer[] = [];
  let plain: Buffer[] = [];
  const pack = () => {
    if (plain.length > 0 || members.length === 0) members.push(gzipSync(Buffer.concat(plain), { level: 1 }));
    plain = [];
  };
  for (const { bytes, is_packed } of chunks) {
    if (is_packed === 0) plain.push(bytes);
    else {
      if (plain.length > 0) pack();
      members.push(bytes);
    }
  }
  if (plain.length > 0 || members.length === 0) pack();
  return Buffer.concat(members);
}

function pairsIn(written: string): [number, number][] {
  return written
    .split(" ")
    .filter(Boolean)
    .map((pair) => pair.split(":").map(Number) as [number, number]);
}

/** A parameter that has `dispatches`. */
export interface HasDispatches {
  dispatches: DispatchStore;
}
