import type { DuetEnd, DuetLimits, Side } from "@/core/comparing/duet/duet";
import type { LaneBase } from "@/core/comparing/lane";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** A duet as it is stored. Its price at most is in the currency of the bench. */
export interface StoredDuet extends DuetLimits {
  id: string;
  app: string;
  /** As the developer named it. */
  name: string | null;
  /** What is said first; "" where the opener finds words of its own. */
  opening: string;
  /** What the opener is told, so that its first words answer something. */
  cue: string;
  opener: Side;
  /** Utterances before which no end is read from the words. */
  judgedFrom: number;
  /** Why it has ended; null while it goes on. */
  ended: DuetEnd | null;
  createdAt: number;
  updatedAt: number;
}

/** One of the two. */
export interface DuetSide {
  side: Side;
  base: LaneBase;
  /** The number of the revision that its base was when it was chosen. */
  revision: number;
  contentHash: string;
  /** In which the other one is the visitor; null before anything was said to it. */
  conversation: string | null;
}

/** An utterance: the message that was said to a side, whose reply it is. */
export interface DuetTurn {
  /** From 1. */
  number: number;
  side: Side;
  /** Null once it is deleted. */
  message: string | null;
  /** Whether its reply is to be made once more. */
  goesAgain: boolean;
}

/** A word that was put in. */
export interface DuetWord {
  side: Side;
  text: string;
  /** The turn in which it was told; null while it waits. */
  number: number | null;
}

interface DuetRow extends Omit<StoredDuet, "ended"> {
  ended: string | null;
}

/** Duets that are listed. */
const mostListed = 200;

const columns = `id, app_id AS app, name, opening, cue, opener, rounds, most_price / 1e6 AS mostPrice,
  most_tokens AS mostTokens, judged_from AS judgedFrom, ended, created_at AS createdAt, updated_at AS updatedAt`;

/** Duets, the two candidates of each, and what was said. */
export class DuetStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO duets (id, app_id, name, opening, cue, opener, rounds, most_price, most_tokens, created_at, updated_at)
         VALUES (@id, @app, @name, @opening, @cue, @opener, @rounds, @mostPrice, @mostTokens, @now, @now)`,
      ),
      addSide: database.prepare(
        `INSERT INTO duet_sides (duet_id, side, base, revision, content_hash)
         VALUES (@duet, @side, @base, @revision, @contentHash)`,
      ),
      byId: database.prepare<[string], DuetRow>(
        `SELECT ${columns} FROM duets WHERE id = ? AND deleted_at IS NULL
           AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      // served by duets_by_app
      ofApp: database.prepare<[string, number], DuetRow & { utterances: number }>(
        `SELECT ${columns}, (SELECT count(*) FROM duet_turns WHERE duet_id = duets.id) AS utterances
         FROM duets WHERE app_id = ? AND deleted_at IS NULL ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      underWay: database.prepare<[], string>("SELECT id FROM duets WHERE ended IS NULL AND deleted_at IS NULL").pluck(),
      sides: database.prepare<[string], Omit<DuetSide, "base"> & { base: string }>(
        `SELECT side, base, revision, content_hash AS contentHash, conversation_id AS conversation
         FROM duet_sides WHERE duet_id = ? ORDER BY side`,
      ),
      setConversation: database.prepare("UPDATE duet_sides SET conversation_id = ? WHERE duet_id = ? AND side = ?"),
      turns: database.prepare<[string], Omit<DuetTurn, "goesAgain"> & { goesAgain: number }>(
        `SELECT number, side, message_id AS message, goes_again AS goesAgain FROM duet_turns WHERE duet_id = ? ORDER BY number`,
      ),
      addTurn: database.prepare(
        "INSERT INTO duet_turns (duet_id, number, side, message_id) VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET message_id = excluded.message_id",
      ),
      setAgain: database.prepare("UPDATE duet_turns SET goes_again = ? WHERE duet_id = ? AND number = ?"),
      words: database.prepare<[string], DuetWord>(
        "SELECT side, text, number FROM duet_words WHERE duet_id = ? ORDER BY id",
      ),
      addWord: database.prepare("INSERT INTO duet_words (duet_id, side, text) VALUES (?, ?, ?)"),
      tellWords: database.prepare("UPDATE duet_words SET number = ? WHERE duet_id = ? AND side = ? AND number IS NULL"),
      setEnded: database.prepare("UPDATE duets SET ended = ?, updated_at = ? WHERE id = ?"),
      goOn: database.prepare(
        "UPDATE duets SET ended = NULL, rounds = ?, judged_from = ?, most_price = ?, most_tokens = ?, updated_at = ? WHERE id = ?",
      ),
      rename: database.prepare("UPDATE duets SET name = ? WHERE id = ?"),
      hide: database.prepare("UPDATE duets SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL"),
      restore: database.prepare("UPDATE duets SET deleted_at = NULL WHERE id = ?"),
      hiddenBefore: database.prepare<[number], string>("SELECT id FROM duets WHERE deleted_at < ?").pluck(),
      delete: database.prepare("DELETE FROM duets WHERE id = ?"),
    };
  }

  add(
    of: Omit<StoredDuet, "id" | "judgedFrom" | "ended" | "createdAt" | "updatedAt"> & { now: number },
    sides: readonly Omit<DuetSide, "side" | "conversation">[],
  ): StoredDuet {
    const id = newId("due");
    this.sql.insert.run({ ...of, id, mostPrice: inMillionths(of.mostPrice) });
    for (const [side, each] of sides.entries())
      this.sql.addSide.run({ ...each, duet: id, side, base: String(each.base) });
    return this.byId(id) as StoredDuet;
  }

  byId(id: string): StoredDuet | undefined {
    const row = this.sql.byId.get(id);
    return row && duetOf(row);
  }

  /** The duets of an app, the last touched first. */
  ofApp(app: string): (StoredDuet & { utterances: number })[] {
    return this.sql.ofApp.all(app, mostListed).map((row) => ({ ...row, ...duetOf(row) }));
  }

  /** Those that go on. */
  underWay(): string[] {
    return this.sql.underWay.all();
  }

  sides(duet: string): [DuetSide, DuetSide] {
    return this.sql.sides.all(duet).map(({ base, ...side }) => ({
      ...side,
      base: base === "live" || base === "draft" ? base : Number(base),
    })) as [DuetSide, DuetSide];
  }

  setConversation(duet: string, side: Side, conversation: string): void {
    this.sql.setConversation.run(conversation, duet, side);
  }

  turns(duet: string): DuetTurn[] {
    return this.sql.turns.all(duet).map((turn) => ({ ...turn, goesAgain: turn.goesAgain === 1 }));
  }

  /** Notes an utterance that is being made, and that the words which waited for its side were told with it. */
  addTurn(duet: string, { number, side, message }: Omit<DuetTurn, "goesAgain"> & { message: string }): void {
    this.sql.addTurn.run(duet, number, side, message);
    this.sql.tellWords.run(number, duet, side);
  }

  /** Has the reply of an utterance made once more, or notes that it is. */
  setAgain(duet: string, number: number, goesAgain: boolean): void {
    this.sql.setAgain.run(Number(goesAgain), duet, number);
  }

  words(duet: string): DuetWord[] {
    return this.sql.words.all(duet);
  }

  addWord(duet: string, side: Side, text: string): void {
    this.sql.addWord.run(duet, side, text);
  }

  setEnded(id: string, ended: DuetEnd, now: number): void {
    this.sql.setEnded.run(JSON.stringify(ended), now, id);
  }

  /** Has it go on. @param judgedFrom utterances before which no end is read from the words */
  goOn(id: string, { rounds, mostPrice, mostTokens }: DuetLimits, judgedFrom: number, now: number): void {
    this.sql.goOn.run(rounds, judgedFrom, inMillionths(mostPrice), mostTokens, now, id);
  }

  rename(id: string, name: string | null): void {
    this.sql.rename.run(name, id);
  }

  /** Takes a duet out of sight; it can be restored until it is deleted for good. */
  hide(id: string, now: number): void {
    this.sql.hide.run(now, id);
  }

  /** Takes that back; false where it was for good. */
  restore(id: string): boolean {
    return this.sql.restore.run(id).changes > 0;
  }

  /** Those that were taken out of sight before a moment. */
  hiddenBefore(moment: number): string[] {
    return this.sql.hiddenBefore.all(moment);
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }
}

function inMillionths(price: number | null): number | null {
  return price === null ? null : Math.round(price * 1_000_000);
}

function duetOf(row: DuetRow): StoredDuet {
  const { id, app, name, opening, cue, opener, rounds, mostPrice, mostTokens, judgedFrom, createdAt, updatedAt } = row;
  const ended = row.ended === null ? null : (JSON.parse(row.ended) as DuetEnd);
  return {
    id,
    app,
    name,
    opening,
    cue,
    opener,
    rounds,
    mostPrice,
    mostTokens,
    judgedFrom,
    ended,
    createdAt,
    updatedAt,
  };
}

/** A parameter that has `duets`. */
export interface HasDuets {
  duets: DuetStore;
}
