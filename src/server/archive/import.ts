import { createReadStream } from "node:fs";
import { parse as parseColumns } from "csv-parse";
import type { ReplyFacts } from "@/core/conversation/message";
import { type Piece, piecesOf } from "@/core/conversation/pieces";
import { HistoryLines, type Placed, type Unfit } from "@/core/history/reading";
import { judgePicture } from "@/core/pictures/judging";
import { BranchStore } from "../conversations/branch-store";
import { ConversationStore, notYet, underWay } from "../conversations/conversation-store";
import { MarkStore } from "../conversations/mark-store";
import { MessageStore } from "../conversations/message-store";
import { PinStore } from "../conversations/pin-store";
import type { Database } from "../database/database";
import { slugOf } from "../database/functions";
import type { FileStore } from "../files/file-store";
import { readLines } from "./read-lines";

/** What is imported, and for which app. */
export interface ImportInput {
  /** The job that it is. */
  job: string;
  app: string;
  file: string;
  as: "jsonl" | "columns";
  /** Who replies are said to be by that do not say it. */
  candidate: { provider: string; model: string; revision: number };
  now: number;
}

/** How far it is: bytes that were read, and what was in them. */
export interface ImportStanding {
  isOver: boolean;
  bytes: number;
  conversations: number;
  messages: number;
}

/** How far a check of a file has come, with what does not fit and the beginnings of what does. */
export interface CheckStanding extends ImportStanding {
  unfit: Unfit[];
  /** How many lines do not fit; `unfit` names the first of them. */
  unfitCount: number;
  preview: { opening: string; messages: number }[];
}

/** A line with its place in the file, once it was parsed. */
type Line = { line: number; bytes: number } & ({ value: unknown } | { why: string });

const mostUnfit = 100;
const mostPreviewed = 8;
/** Milliseconds that a check goes on before it says how far it is, and a transaction is open. */
const checkMs = 40;
const storeMs = 2;
/** Lines that are parsed ahead of what is stored. */
const mostAhead = 64;

/** Reads a file through to its end, some of it at a time, and says which lines do not fit. Nothing is stored. */
export class ImportCheck {
  private readonly lines = new HistoryLines();
  private readonly source;
  private readonly standing: CheckStanding = {
    isOver: false,
    bytes: 0,
    conversations: 0,
    messages: 0,
    unfit: [],
    unfitCount: 0,
    preview: [],
  };

  constructor(input: Pick<ImportInput, "file" | "as">) {
    this.source = linesOf(input);
  }

  async some(): Promise<CheckStanding> {
    const { standing } = this;
    const until = performance.now() + checkMs;
    while (performance.now() < until) {
      const { value: line, done } = await this.source.next();
      if (done) {
        this.end();
        break;
      }
      standing.bytes = line.bytes;
      if ("why" in line) {
        this.note({ line: line.line, why: line.why });
        continue;
      }
      const taken = this.lines.take(line.value, line.line);
      if (taken.ok && hasNoPicture(taken.placed))
        this.note({ line: line.line, why: "a picture in it is none that is taken" });
      else if (taken.ok) this.count(taken.placed);
      else this.note({ line: line.line, why: taken.why });
    }
    return standing;
  }

  private end(): void {
    const { standing } = this;
    standing.isOver = true;
    // where lines are missing, others look unanswered for that alone
    if (standing.unfitCount === 0) for (const unfit of this.lines.unanswered()) this.note(unfit);
    if (standing.messages === 0 && standing.unfitCount === 0) this.note({ line: 1, why: "there is no message in it" });
  }

  private count({ begins, record }: Placed): void {
    const { standing } = this;
    standing.messages += 1;
    if (begins) standing.conversations += 1;
    if (begins && standing.preview.length < mostPreviewed)
      standing.preview.push({ opening: record.about?.title ?? record.text.slice(0, 160), messages: 0 });
    const last = standing.preview[standing.conversations - 1];
    if (last) last.messages += 1;
  }

  private note(unfit: Unfit): void {
    const { standing } = this;
    standing.unfitCount += 1;
    if (standing.unfit.length < mostUnfit) standing.unfit.push(unfit);
  }
}

/**
 * Stores what was checked, in short transactions, each with how far it is. What it stores is out of sight until all
 * of it is there. After a restart it goes on with the first conversation that was not stored to its end.
 */
export class ImportStore {
  private readonly conversations;
  private readonly messages;
  private readonly branches;
  private readonly marks;
  private readonly pins;
  private readonly lines = new HistoryLines();
  private readonly source;
  private readonly ahead: Line[] = [];
  private hasEnded = false;
  private standing: ImportStanding = { isOver: false, bytes: 0, conversations: 0, messages: 0 };
  private current:
    | { id: string; ids: string[]; tip: string | undefined; placed: Placed[]; about: Placed["record"]["about"] }
    | undefined;
  private readonly sql;
  /** Conversations that an earlier run stored to their end. */
  private toSkip: number;

  constructor(
    private readonly database: Database,
    private readonly files: FileStore,
    private readonly input: ImportInput,
  ) {
    this.conversations = new ConversationStore(database);
    this.messages = new MessageStore(database);
    this.branches = new BranchStore(database);
    this.marks = new MarkStore(database);
    this.pins = new PinStore(database);
    this.source = linesOf(input);
    this.sql = {
      stored: database.prepare<[string], { id: string; at: number | null }>(
        "SELECT id, deleted_at AS at FROM conversations WHERE job_id = ? ORDER BY id",
      ),
      hide: database.prepare("UPDATE conversations SET job_id = ?, deleted_at = ? WHERE id = ?"),
      finish: database.prepare(
        `UPDATE conversations SET deleted_at = @notYet, created_at = @createdAt, updated_at = @updatedAt, price = @price,
           currency = @currency, client = @client WHERE id = @id`,
      ),
    };
    const stored = this.sql.stored.all(input.job);
    const left = stored.filter(({ at }) => at === underWay);
    database
      .transaction(() => {
        for (const { id } of left) this.conversations.leave(id, input.now);
      })
      .immediate();
    this.toSkip = stored.length - left.length;
  }

  /** Stores some more, in one transaction. */
  async some(): Promise<ImportStanding> {
    await this.readAhead();
    const { words } = this.messages;
    this.database
      .transaction(() =>
        words.together(() => {
          // counted from here, and one line at least: a wait for the lock takes nothing from what is stored
          const until = performance.now() + storeMs;
          for (let line = this.ahead.shift(); line; line = performance.now() < until ? this.ahead.shift() : undefined)
            this.take(line);
          if (this.hasEnded && this.ahead.length === 0) {
            this.endConversation();
            this.standing.isOver = true;
          }
        }),
      )
      .immediate();
    return this.standing;
  }

  private async readAhead(): Promise<void> {
    while (!this.hasEnded && this.ahead.length < mostAhead) {
      const { value, done } = await this.source.next();
      if (done) this.hasEnded = true;
      else this.ahead.push(value);
    }
  }

  private take(line: Line): void {
    const taken = "value" in line ? this.lines.take(line.value, line.line) : undefined;
    if (!taken?.ok) throw new Error(`Line ${line.line} fitted, and does no more: the file was changed.`);
    const { placed } = taken;
    this.standing.bytes = line.bytes;
    if (placed.begins) {
      this.endConversation();
      this.standing.conversations += 1;
    }
    this.standing.messages += 1;
    if (this.standing.conversations <= this.toSkip) return;
    if (placed.begins) this.begin(placed);
    this.add(placed);
  }

  private begin({ record }: Placed): void {
    const at = moment(record.about?.createdAt ?? record.at, this.input.now);
    const { id } = this.conversations.create({
      app: this.input.app,
      visitor: null,
      origin: "imported",
      opening: record.text,
      now: at,
    });
    this.sql.hide.run(this.input.job, underWay, id);
    this.current = { id, ids: [], tip: undefined, placed: [], about: record.about };
  }

  private add(placed: Placed): void {
    const { record, after } = placed;
    const current = this.current as NonNullable<ImportStore["current"]>;
    const now = moment(record.at, this.input.now);
    const parent = after === null ? undefined : this.messages.message(current.ids[after - 1] ?? "");
    const conversation = current.id;
    let id: string;
    if (record.role === "visitor" || parent === undefined)
      ({ id } = this.messages.addVisitorMessage({ conversation, parent, pieces: this.piecesOf(record), now }));
    else {
      const made = record.made ?? { ...this.input.candidate, hand: "written" as const };
      // numbers of revisions are those of the app that made them
      const imported = { revision: record.made?.revision ?? null };
      const facts: ReplyFacts = { ...lasting(made), revision: 0, imported };
      const continues = record.continues === undefined ? null : (current.ids[record.continues - 1] ?? null);
      ({ id } = this.messages.addReply({ conversation, parent, continues, facts, now }));
      const { state = "complete", tokens = null } = record;
      this.messages.finishReply({ id, state, pieces: this.piecesOf(record), reported: tokens, facts });
    }
    current.ids.push(id);
    if (record.tip) current.tip = id;
    if (record.branch) this.branches.name(id, record.branch);
    if (record.clear) this.branches.clear(conversation, id, null, now);
    for (const by of record.clearFor ?? []) this.branches.clear(conversation, id, lasting(by), now);
    if (record.pin) this.pins.pin(conversation, id, now);
    for (const rater of ["visitor", "bench"] as const) {
      const rating = record.ratings?.[rater];
      if (rating) this.marks.rate({ conversation, message: id, rater }, rating, now);
    }
    if (record.shown) current.placed.push(placed);
  }

  /** The pieces of a line, its pictures kept. */
  private piecesOf({ text, pieces }: Placed["record"]): Piece[] {
    if (!pieces) return piecesOf(text);
    return pieces.flatMap((piece): Piece[] => {
      if (piece.kind !== "picture") return [piece];
      const judged = judgePicture(Buffer.from(piece.bytes, "base64"));
      if (judged.kind === "problem") return [];
      const { hash, type, width, height } = this.files.keep(judged, this.input.now);
      return [{ kind: "picture", file: hash, type, width, height }];
    });
  }

  /** Writes what is known of a conversation once it is whole. */
  private endConversation(): void {
    const { current } = this;
    this.current = undefined;
    if (!current) return;
    const { id, ids, about, tip, placed } = current;
    for (const { message, after } of placed)
      if (after !== null) this.branches.rememberChild(ids[after - 1] ?? "", ids[message - 1] ?? "");
    const end = tip ?? ids.at(-1);
    if (end) this.branches.setTip(id, end);
    if (about?.title) this.marks.setTitle(id, about.title);
    if (about?.note) this.marks.setNote(id, about.note);
    if (about?.tags) this.marks.setTags(id, about.tags);
    const stored = this.conversations.stored(id);
    this.sql.finish.run({
      id,
      notYet,
      createdAt: moment(about?.createdAt, stored?.createdAt ?? this.input.now),
      updatedAt: moment(about?.updatedAt, stored?.updatedAt ?? this.input.now),
      price: Math.round((about?.price ?? 0) * 1_000_000),
      currency: about?.currency ?? "",
      client: about?.client ?? null,
    });
  }
}

/** Whether what is said to be a picture is none. */
function hasNoPicture({ record: { pieces = [] } }: Placed): boolean {
  return pieces.some(
    (piece) => piece.kind === "picture" && judgePicture(Buffer.from(piece.bytes, "base64")).kind === "problem",
  );
}

function moment(written: string | undefined, otherwise: number): number {
  return written === undefined ? otherwise : new Date(written).getTime();
}

/** The lines of a file, parsed; those of two columns as a visitor's message and a reply each. */
function linesOf({ file, as }: Pick<ImportInput, "file" | "as">): AsyncGenerator<Line, undefined> {
  return as === "jsonl" ? jsonLines(file) : columns(file);
}

async function* jsonLines(file: string): AsyncGenerator<Line, undefined> {
  for await (const { text, line, bytes } of readLines(file)) {
    if (text === undefined) yield { line, bytes, why: "it is longer than 32 MiB" };
    else if (text.trim() !== "")
      try {
        yield { line, bytes, value: JSON.parse(text) };
      } catch (error) {
        yield { line, bytes, why: `it is not JSON: ${(error as Error).message}` };
      }
  }
  return undefined;
}

async function* columns(file: string): AsyncGenerator<Line, undefined> {
  const parser = createReadStream(file).pipe(
    parseColumns({
      bom: true,
      delimiter: [",", ";", "\t"],
      relax_column_count: true,
      info: true,
      skip_empty_lines: true,
      max_record_size: 32 * 1024 * 1024,
    }),
  );
  let row = 0;
  try {
    for await (const { record, info } of parser as AsyncIterable<{
      record: string[];
      info: { lines: number; bytes: number };
    }>) {
      row += 1;
      const [question = "", answer = "", ...more] = record;
      if (row === 1 && /^(question|visitor|prompt)$/i.test(question.trim())) continue;
      const at = { line: info.lines, bytes: info.bytes };
      if (record.length < 2 || more.some((cell) => cell.trim() !== ""))
        yield {
          ...at,
          why: `it has ${record.length === 1 ? "one column" : `${record.length} columns`}, and two are wanted: a question and its answer`,
        };
      else {
        yield { ...at, value: { conversation: row, role: "visitor", text: question } };
        yield { ...at, value: { conversation: row, role: "app", text: answer } };
      }
    }
  } catch (error) {
    yield { line: (error as { lines?: number }).lines ?? row + 1, bytes: 0, why: (error as Error).message };
  }
  return undefined;
}

/** A speaker with its provider by the lasting name: older files name the one that was shown. */
function lasting<S extends { provider: string }>(speaker: S): S {
  return { ...speaker, provider: slugOf(speaker.provider) };
}
