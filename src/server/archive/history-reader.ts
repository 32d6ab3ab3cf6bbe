import type { HistoryChoices, HistoryCount, HistoryPage, ListedConversation } from "@/contract/conversations";
import { numbersOf, type Outline } from "@/core/context/outline";
import type { Candidate } from "@/core/reply/events";
import type { ReplyState } from "@/core/reply/reply";
import type { Filter } from "@/core/search/filter";
import { matchOf, termsOf } from "@/core/search/terms";
import { rawTokens } from "@/core/tokens/calibration";
import type { Counts } from "@/core/tokens/counts";
import type { ListPlace } from "../conversations/conversation-store";
import type { Database } from "../database/database";
import { type Conditions, conditionsFor } from "./conditions";

const onPage = 20;
const turnsOnStrip = 40;
const mostChoices = 200;
const rowsEach = 2 ** 20;

interface FoundRow {
  id: string;
  number: number;
  updated_at: number;
  places: number;
}

interface ConversationRow extends FoundRow {
  origin: ListedConversation["origin"];
  client: string | null;
  visitor: string | null;
  opening: string;
  title: string | null;
  tags: string | null;
  ratings: string | null;
  created_at: number;
  turns: number;
  tokens: number;
  price: number;
  currency: string;
  tip_id: string | null;
}

interface StripRow {
  id: string;
  parent: string | null;
  turn: number;
  role: "visitor" | "app";
  counts: string;
  reported: number | null;
  state: ReplyState | null;
  words_id: number | null;
}

interface OutlineRow {
  id: string;
  state: ReplyState | null;
  counts: string;
  provider: string | null;
  model: string | null;
}

type Values = Record<string, string | number>;

/**
 * Reads the history of apps: filtered, searched, by page. It is made for a thread of its own, on a connection that
 * only reads.
 */
export class HistoryReader {
  private readonly sql;
  private readonly filtered = new Map<string, ReturnType<Database["prepare"]>>();

  constructor(private readonly database: Database) {
    this.sql = {
      conversation: database.prepare<[string], ConversationRow>(
        `SELECT c.*, v.name AS visitor,
           (SELECT json_group_array(tag) FROM tags WHERE conversation_id = c.id) AS tags,
           (SELECT json_group_array(DISTINCT rating) FROM ratings WHERE conversation_id = c.id) AS ratings
         FROM conversations AS c LEFT JOIN visitors AS v ON v.id = c.visitor_id WHERE c.id = ?`,
      ),
      isOfApp: database
        .prepare<[string, string]>("SELECT 1 FROM conversations WHERE id = ? AND app_id = ? AND deleted_at IS NULL")
        .pluck(),
      // walks up by primary key
      outline: database.prepare<[string], OutlineRow>(
        `WITH RECURSIVE line (id, parent, depth) AS (
           SELECT id, parent_id, depth FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id, messages.depth FROM messages JOIN line ON messages.id = line.parent
         )
         SELECT m.id, state, counts, json_extract(facts, '$.provider') AS provider, json_extract(facts, '$.model') AS model
         FROM line JOIN messages AS m ON m.id = line.id ORDER BY line.depth`,
      ),
      // walks up by primary key, as far as a strip is long
      strip: database.prepare<[string, number], StripRow>(
        `WITH RECURSIVE line AS (
           SELECT id, parent_id AS parent, turn, depth, role, counts, reported, state, words_id FROM messages WHERE id = ?
           UNION ALL
           SELECT m.id, m.parent_id, m.turn, m.depth, m.role, m.counts, m.reported, m.state, m.words_id
             FROM messages AS m JOIN line ON m.id = line.parent
           LIMIT ?
         ) SELECT * FROM line ORDER BY depth`,
      ),
      // served by messages_by_conversation
      isForked: database
        .prepare<[string]>(
          "SELECT count(*) > max(depth) + 1 FROM messages WHERE conversation_id = ? AND is_leaving = 0",
        )
        .pluck(),
      // lines that part where a visitor said something else, or another take was gone on from; served by messages_by_parent
      beside: database
        .prepare<[string | null, string, string]>(
          `SELECT count(*) FROM messages AS m WHERE m.parent_id IS ? AND m.conversation_id = ? AND m.id <> ? AND m.is_leaving = 0
             AND (m.role = 'visitor' OR EXISTS (SELECT 1 FROM messages AS next WHERE next.parent_id = m.id AND next.is_leaving = 0))`,
        )
        .pluck(),
      hits: database
        .prepare<[string, number, number]>("SELECT rowid FROM words WHERE words MATCH ? AND rowid BETWEEN ? AND ?")
        .pluck(),
      turnsOf: database
        .prepare<[string]>(
          "SELECT DISTINCT turn FROM messages WHERE words_id IN (SELECT value FROM json_each(?)) ORDER BY turn",
        )
        .pluck(),
      froms: database.prepare<[string, number], { origin: ListedConversation["origin"]; client: string | null }>(
        `SELECT DISTINCT origin, client FROM conversations WHERE app_id = ? AND deleted_at IS NULL AND unlisted = 0
         ORDER BY origin, client LIMIT ?`,
      ),
      // read from the index replies_by_maker alone
      makers: database.prepare<[string], { model: string; revision: number }>(
        `SELECT DISTINCT made_by AS model, made_at_revision AS revision FROM messages
         WHERE role = 'app' AND is_leaving = 0 AND conversation_id IN (
           SELECT id FROM conversations WHERE app_id = ? AND deleted_at IS NULL AND unlisted = 0)`,
      ),
      tags: database
        .prepare<[string, number]>(
          `SELECT DISTINCT tag FROM tags JOIN conversations ON conversations.id = conversation_id
           WHERE app_id = ? AND deleted_at IS NULL ORDER BY tag LIMIT ?`,
        )
        .pluck(),
    };
  }

  /** The conversations that a filter finds after a place in the list, the last touched first. */
  find(app: string, filter: Filter, after: ListPlace, count: number): FoundRow[] {
    const conditions = conditionsFor(app, filter);
    if (!conditions) return [];
    return this.prepared(
      `${conditions.with}
       SELECT c.id, c.number, c.updated_at, ${conditions.places} AS places FROM ${conditions.from}
       WHERE ${conditions.where} AND (c.updated_at, c.id) < (@updatedAt, @id)
       ORDER BY c.updated_at DESC, c.id DESC LIMIT @count`,
    ).all({ ...conditions.values, ...after, count }) as FoundRow[];
  }

  private count(app: string, filter: Filter): { conversations: number; places: number } {
    const conditions: Conditions | undefined = conditionsFor(app, filter);
    if (!conditions) return { conversations: 0, places: 0 };
    return this.prepared(
      `${conditions.with}
       SELECT count(*) AS conversations, coalesce(sum(${conditions.places}), 0) AS places FROM ${conditions.from}
       WHERE ${conditions.where}`,
    ).get(conditions.values) as { conversations: number; places: number };
  }

  /** The ids of all that a filter finds, the first made first; at most so many. */
  ids(app: string, filter: Filter, most: number): string[] {
    const conditions = conditionsFor(app, filter);
    if (!conditions) return [];
    const rows = this.prepared(
      `${conditions.with} SELECT c.id FROM ${conditions.from} WHERE ${conditions.where} ORDER BY c.id LIMIT @most`,
    ).all({ ...conditions.values, most }) as { id: string }[];
    return rows.map(({ id }) => id);
  }

  /** The ids of all that a filter finds, one after another, however many there are. */
  *allIds(app: string, filter: Filter): Generator<string> {
    for (let after = ""; ; ) {
      const conditions = conditionsFor(app, filter);
      if (!conditions) return;
      const rows = this.prepared(
        `${conditions.with} SELECT c.id FROM ${conditions.from} WHERE ${conditions.where} AND c.id > @after
         ORDER BY c.id LIMIT 200`,
      ).all({ ...conditions.values, after }) as { id: string }[];
      yield* rows.map(({ id }) => id);
      const last = rows.at(-1);
      if (!last) return;
      after = last.id;
    }
  }

  /** Of some ids those that are conversations of an app, the first made first. */
  ofApp(app: string, ids: readonly string[]): string[] {
    const known = ids.filter((id) => this.sql.isOfApp.get(id, app) === 1);
    return [...new Set(known)].sort();
  }

  /** A page of the list: each conversation with its strip, in which the places are counted by turn. */
  page({ app, filter, after }: { app: string; filter: Filter; after: ListPlace | null }): HistoryPage {
    const first = { updatedAt: Number.MAX_SAFE_INTEGER, id: "" };
    const found = this.find(app, filter, after ?? first, onPage + 1);
    const shown = found.slice(0, onPage);
    const last = shown.at(-1);
    return {
      conversations: shown.map((row) => this.listed(row, filter.words)),
      before: found.length > shown.length && last ? `${last.updated_at}-${last.id}` : null,
    };
  }

  /** How many conversations a filter finds, how many messages in them say its words, and of how many conversations. */
  counted({ app, filter }: { app: string; filter: Filter }): HistoryCount {
    return { ...this.count(app, filter), of: this.count(app, {}).conversations };
  }

  /** The line that ends with a message, without its texts. */
  outline(end: string): Outline {
    const makers: Candidate[] = [];
    const places = new Map<string, number>();
    const rows = this.sql.outline.all(end).map(({ id, state, counts, provider, model }): Outline["rows"][0] => {
      if (state === null || provider === null || model === null)
        return [id, state, null, numbersOf(JSON.parse(counts) as Counts)];
      const key = JSON.stringify([provider, model]);
      const place = places.get(key) ?? makers.push({ provider, model }) - 1;
      places.set(key, place);
      return [id, state, place, numbersOf(JSON.parse(counts) as Counts)];
    });
    return { makers, rows };
  }

  /** The turns of a line in which messages say some words, from 1. @param end the end of the line */
  turnsSaying({ conversation, end, words }: { conversation: string; end: string; words: string }): number[] {
    const number = this.sql.conversation.get(conversation)?.number;
    if (number === undefined) return [];
    const said = new Set(this.hitsIn(number, words));
    if (said.size === 0) return [];
    const turns = new Set<number>();
    for (const row of this.sql.strip.iterate(end, -1)) if (said.has(row.words_id ?? -1)) turns.add(row.turn);
    return [...turns];
  }

  /** What a filter can be set to. */
  choices(app: string): HistoryChoices {
    const makers = this.sql.makers.all(app);
    return {
      from: this.sql.froms.all(app, mostChoices),
      models: [...new Set(makers.map(({ model }) => model))].sort().slice(0, mostChoices),
      revisions: [...new Set(makers.map(({ revision }) => revision))].sort((a, b) => b - a).slice(0, mostChoices),
      tags: this.sql.tags.all(app, mostChoices) as string[],
    };
  }

  private listed({ id, number, places }: FoundRow, words: string | undefined): ListedConversation {
    const row = this.sql.conversation.get(id) as ConversationRow;
    const hits = new Set(places > 0 && words ? this.hitsIn(number, words) : []);
    const line = row.tip_id === null ? [] : this.sql.strip.all(row.tip_id, turnsOnStrip * 2);
    const isForked = this.sql.isForked.get(id) === 1;
    const turns: ListedConversation["turns"] = [];
    for (const message of line) {
      const tokens = message.reported ?? rawTokens(JSON.parse(message.counts) as Counts);
      const forks = isForked ? (this.sql.beside.get(message.parent, id, message.id) as number) : 0;
      const place = hits.has(message.words_id ?? -1) ? 1 : 0;
      if (message.role === "visitor") turns.push({ visitor: tokens, reply: 0, state: null, forks, places: place });
      const turn = turns.at(-1);
      if (message.role !== "app" || !turn) continue;
      Object.assign(turn, {
        reply: tokens,
        state: message.state,
        forks: turn.forks + forks,
        places: turn.places + place,
      });
    }
    return {
      id,
      origin: row.origin,
      client: row.client,
      visitor: row.visitor,
      opening: row.opening,
      title: row.title,
      tags: JSON.parse(row.tags ?? "[]"),
      rated: JSON.parse(row.ratings ?? "[]"),
      at: row.created_at,
      updatedAt: row.updated_at,
      turns: turns.slice(-turnsOnStrip),
      turnCount: row.turns,
      tokens: row.tokens,
      price: row.currency === "" ? null : { amount: row.price / 1_000_000, currency: row.currency },
      places,
    };
  }

  /** The rows of the index in which a conversation says some words. */
  private hitsIn(number: number, words: string): number[] {
    const terms = termsOf(words);
    if (!terms) return [];
    return this.sql.hits.all(matchOf(terms), number * rowsEach, (number + 1) * rowsEach - 1) as number[];
  }

  private prepared(text: string): { all(values: Values): unknown[]; get(values: Values): unknown } {
    let statement = this.filtered.get(text);
    if (!statement) {
      statement = this.database.prepare(text);
      this.filtered.set(text, statement);
    }
    return statement as unknown as { all(values: Values): unknown[]; get(values: Values): unknown };
  }
}
