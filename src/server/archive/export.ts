import { readFileSync } from "node:fs";
import type { ReplyFacts } from "@/core/conversation/message";
import { argumentsText, type Piece, resultText, textOf } from "@/core/conversation/pieces";
import type { Rating } from "@/core/conversation/rating";
import { csvCell } from "@/core/history/csv";
import { type About, lineOf, type MadeRecord, type MessageRecord, type PieceRecord } from "@/core/history/record";
import type { Candidate } from "@/core/reply/events";
import type { ReplyState } from "@/core/reply/reply";
import type { Database } from "../database/database";
import type { FileStore } from "../files/file-store";

/** The forms that a history can be had in. */
export type ExportForm = "jsonl" | "markdown" | "csv";

/** Messages that are read at a time. */
const atOnce = 100;

interface ConversationRow {
  id: string;
  title: string | null;
  opening: string;
  origin: NonNullable<About["origin"]>;
  client: string | null;
  note: string;
  created_at: number;
  updated_at: number;
  price: number;
  currency: string;
  tip_id: string | null;
  tags: string;
}

interface MessageRow {
  id: string;
  parent_id: string | null;
  depth: number;
  turn: number;
  role: "visitor" | "app";
  pieces: string;
  reported: number | null;
  state: ReplyState | null;
  continues: string | null;
  facts: string | null;
  name: string | null;
  created_at: number;
  isShown: number;
  clears: string;
  isPinned: number;
  ratings: string;
}

/** Writes conversations in one of the forms, some messages at a time, so that they are as many as they like. */
export class Exporter {
  private readonly sql;

  /** @param files where the pictures of messages are */
  constructor(
    database: Database,
    private readonly files: FileStore,
  ) {
    this.sql = {
      conversation: database.prepare<[string], ConversationRow>(
        `SELECT id, title, opening, origin, client, note, created_at, updated_at, price, currency, tip_id,
           (SELECT json_group_array(tag) FROM (SELECT tag FROM tags WHERE conversation_id = conversations.id ORDER BY tag)) AS tags
         FROM conversations WHERE id = ? AND deleted_at IS NULL AND unlisted = 0`,
      ),
      // served by messages_by_conversation
      messages: database.prepare<[string, number, string, number], MessageRow>(
        `SELECT id, parent_id, depth, turn, role, pieces, reported, state, continues, facts, name, created_at,
           (SELECT shown_child_id FROM messages AS parent WHERE parent.id = m.parent_id) = id
             AND (SELECT count(*) FROM messages AS s WHERE s.parent_id = m.parent_id AND s.is_leaving = 0) > 1 AS isShown,
           (SELECT json_group_array(answered_by) FROM clears WHERE message_id = m.id) AS clears,
           EXISTS (SELECT 1 FROM pins WHERE message_id = m.id) AS isPinned,
           (SELECT json_group_object(rater, rating) FROM (SELECT rater, rating FROM ratings WHERE message_id = m.id ORDER BY rater DESC)) AS ratings
         FROM messages AS m WHERE conversation_id = ? AND is_leaving = 0 AND (depth, id) > (?, ?)
         ORDER BY depth, id LIMIT ?`,
      ),
      line: database.prepare<[string], { id: string }>(
        `WITH RECURSIVE line (id, parent) AS (
           SELECT id, parent_id FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id FROM messages JOIN line ON messages.id = line.parent
         ) SELECT id FROM line`,
      ),
    };
  }

  /** The parts of a file, in order. */
  *write(form: ExportForm, conversations: Iterable<string>): Generator<string> {
    if (form === "csv") yield csvHead;
    let number = 0;
    for (const id of conversations) {
      const conversation = this.sql.conversation.get(id);
      // it may have been deleted meanwhile
      if (!conversation) continue;
      number += 1;
      if (form === "jsonl") yield* this.lines(conversation, number);
      else if (form === "csv") yield* this.figures(conversation, number);
      else yield* this.prose(conversation, number);
    }
  }

  private *lines(conversation: ConversationRow, number: number): Generator<string> {
    const places = new Map<string, number>();
    for (const rows of this.pages(conversation.id)) {
      let text = "";
      for (const row of rows) {
        places.set(row.id, places.size + 1);
        text += lineOf(recordOf(row, conversation, number, places, this.files));
      }
      yield text;
    }
  }

  private *figures(conversation: ConversationRow, number: number): Generator<string> {
    for (const rows of this.pages(conversation.id)) {
      const replies = rows.filter(({ role }) => role === "app");
      if (replies.length > 0) yield replies.map((row) => figuresOf(row, number)).join("");
    }
  }

  /** The line that is shown, as one reads it. */
  private *prose(conversation: ConversationRow, number: number): Generator<string> {
    const { title, opening, created_at, tip_id } = conversation;
    const heading = (title ?? opening).replace(/\s+/g, " ").trim();
    yield `${number > 1 ? "\n" : ""}# ${heading.replace(/([\\`*_[\]<>#])/g, "\\$1")}\n\n${new Date(created_at).toISOString()}\n`;
    const line = new Set(tip_id === null ? [] : this.sql.line.all(tip_id).map(({ id }) => id));
    for (const rows of this.pages(conversation.id)) {
      const shown = rows.filter(({ id }) => line.has(id));
      if (shown.length > 0) yield shown.map(proseOf).join("");
    }
  }

  private *pages(conversation: string): Generator<MessageRow[]> {
    for (let [depth, id] = [-1, ""]; ; ) {
      const rows = this.sql.messages.all(conversation, depth, id, atOnce);
      const last = rows.at(-1);
      if (!last) return;
      yield rows;
      depth = last.depth;
      id = last.id;
    }
  }
}

function recordOf(
  row: MessageRow,
  conversation: ConversationRow,
  number: number,
  places: ReadonlyMap<string, number>,
  files: FileStore,
): MessageRecord {
  const message = places.get(row.id) ?? 0;
  const pieces = JSON.parse(row.pieces) as Piece[];
  const ratings = JSON.parse(row.ratings) as Partial<Record<"visitor" | "bench", Rating>>;
  const common = {
    conversation: number,
    about: message === 1 ? aboutOf(conversation) : undefined,
    message,
    after: row.parent_id === null ? null : places.get(row.parent_id),
    role: row.role,
    text: textOf({ pieces }),
    pieces: pieces.every(({ kind }) => kind === "text")
      ? undefined
      : pieces.flatMap((piece) => pieceRecord(piece, files)),
    at: new Date(row.created_at).toISOString(),
  };
  const clears = JSON.parse(row.clears) as string[];
  const clearFor = clears.filter(Boolean).map((by) => JSON.parse(by) as Candidate);
  const flag = (is: boolean) => (is ? (true as const) : undefined);
  const place = {
    branch: row.name ?? undefined,
    shown: flag(row.isShown === 1),
    tip: flag(row.id === conversation.tip_id),
    clear: flag(clears.includes("")),
    clearFor: clearFor.length > 0 ? clearFor : undefined,
    pin: flag(row.isPinned === 1),
    ratings: Object.keys(ratings).length > 0 ? ratings : undefined,
  };
  if (row.role === "visitor" || row.facts === null || row.state === null) return { ...common, ...place };
  return {
    ...common,
    // what still arrives is written as it would be if the process ended now
    state: row.state === "waiting" || row.state === "arriving" ? "interrupted" : row.state,
    tokens: row.reported ?? undefined,
    made: madeOf(JSON.parse(row.facts) as ReplyFacts),
    continues: row.continues === null ? undefined : places.get(row.continues),
    ...place,
  };
}

/** A piece with all that belongs to it; none of a picture whose bytes are gone. */
function pieceRecord(piece: Piece, files: FileStore): PieceRecord[] {
  if (piece.kind !== "picture") return [piece];
  const { file: hash, ...picture } = piece;
  const file = files.find(hash);
  return file ? [{ ...picture, bytes: readFileSync(file.path).toString("base64") }] : [];
}

function aboutOf(conversation: ConversationRow): About {
  const tags = JSON.parse(conversation.tags) as string[];
  return {
    title: conversation.title ?? undefined,
    origin: conversation.origin,
    client: conversation.client ?? undefined,
    note: conversation.note || undefined,
    tags: tags.length > 0 ? tags : undefined,
    createdAt: new Date(conversation.created_at).toISOString(),
    updatedAt: new Date(conversation.updated_at).toISOString(),
    price: conversation.currency === "" ? undefined : conversation.price / 1_000_000,
    currency: conversation.currency || undefined,
  };
}

function madeOf(facts: ReplyFacts): MadeRecord {
  const { provider, model, hand, thought, usage, problem, firstTextMs, totalMs, attempts, rounds, insteadOf } = facts;
  const revision = facts.imported?.revision ?? facts.revision;
  const times = { firstTextMs, totalMs, attempts, rounds };
  return { revision, provider, model, hand, thought, usage, problem, ...times, insteadOf };
}

const figures = [
  "conversation",
  "turn",
  "at",
  "revision",
  "provider",
  "model",
  "state",
  "input",
  "output",
  "cached",
  "thought",
  "price",
  "currency",
  "first_text_ms",
  "total_ms",
  "characters",
] as const;
/** RFC 4180: lines end with CR LF. */
const csvHead = `${figures.join(",")}\r\n`;

function figuresOf(row: MessageRow, conversation: number): string {
  const { revision, imported, provider, model, usage, firstTextMs, totalMs } = JSON.parse(
    row.facts ?? "{}",
  ) as ReplyFacts;
  const characters = textOf({ pieces: JSON.parse(row.pieces) as Piece[] }).length;
  const values: Record<(typeof figures)[number], string | number | undefined> = {
    conversation,
    turn: row.turn,
    at: new Date(row.created_at).toISOString(),
    revision: imported ? undefined : revision,
    provider,
    model,
    state: row.state ?? "",
    input: usage?.input,
    output: usage?.output,
    cached: usage?.cachedInput,
    thought: usage?.thought,
    price: usage?.price,
    currency: usage?.currency,
    first_text_ms: firstTextMs,
    total_ms: totalMs,
    characters,
  };
  return `${figures.map((name) => csvCell(values[name])).join(",")}\r\n`;
}

function proseOf(row: MessageRow): string {
  const text = (JSON.parse(row.pieces) as Piece[]).map(proseOfPiece).join("\n\n");
  if (row.role === "visitor") return `\n## ${row.turn}. Visitor\n\n${text}\n`;
  const { model, hand } = JSON.parse(row.facts ?? "{}") as ReplyFacts;
  const by = hand ? `${hand} by hand` : model;
  const ending = row.state === "complete" ? "" : `, ${row.state}`;
  return `\n### ${by}${ending}\n\n${text || "(nothing)"}\n`;
}

/** A piece as one reads it. */
function proseOfPiece(piece: Piece): string {
  if (piece.kind === "tool")
    return `> ${piece.name} ${argumentsText(piece.arguments)}: ${resultText(piece).replaceAll("\n", "\n> ")}`;
  if (piece.kind === "picture") return `(a picture, ${piece.width} by ${piece.height})`;
  if (piece.kind === "linked") return `(a picture at ${piece.address})`;
  return textOf({ pieces: [piece] });
}
