import type { z } from "zod";
import { mostPins } from "../context/row";
import { type ReadRecord, recordSchema } from "./record";

/** A line that does not fit: why, in a sentence. */
export interface Unfit {
  line: number;
  why: string;
}

/** Where a line belongs. */
export interface Placed {
  /** Whether a conversation begins with it. */
  begins: boolean;
  /** Its number in its conversation. */
  message: number;
  after: number | null;
  record: ReadRecord;
}

type Read = { ok: true; placed: Placed } | { ok: false; why: string };

/**
 * Reads the lines of a history one by one, and says of each where it belongs, or why it does not fit: roles take turns,
 * what a line names came before it, and a conversation stands in one piece.
 */
export class HistoryLines {
  private readonly seen = new Set<string>();
  private conversation: string | undefined;
  /** Roles of the messages of the conversation so far, by their numbers. */
  private roles: ("visitor" | "app")[] = [];
  private pins = 0;
  private readonly lineOfUnanswered = new Map<string, number>();

  /** Reads a value that stood on a line. */
  take(value: unknown, line: number): Read {
    const parsed = recordSchema.safeParse(value);
    if (!parsed.success) return { ok: false, why: wordsOf(parsed.error) };
    const record = parsed.data;
    const name = record.conversation === undefined ? (this.conversation ?? "") : String(record.conversation);
    const begins = this.conversation === undefined || name !== this.conversation;
    if (begins && this.seen.has(name))
      return { ok: false, why: `conversation ${name} goes on here, and another one stands between` };
    const roles = begins ? [] : this.roles;
    const message = roles.length + 1;
    if (record.message !== undefined && record.message !== message)
      return { ok: false, why: `it is message ${message} of its conversation, and says ${record.message}` };
    const after = record.after === undefined ? (message === 1 ? null : message - 1) : record.after;
    const why = whyNot(record, after, roles);
    if (why !== undefined) return { ok: false, why };
    if (begins) this.begin(name);
    if (record.pin && this.pins === mostPins)
      return { ok: false, why: `${mostPins} turns of its conversation are pinned already` };
    if (record.pin) this.pins += 1;
    this.roles.push(record.role);
    const place = (number: number | null) => `${name} ${number}`;
    if (record.role === "app") this.lineOfUnanswered.delete(place(after));
    else this.lineOfUnanswered.set(place(message), line);
    return { ok: true, placed: { begins, message, after, record } };
  }

  /** The messages of the visitor that nothing answers, once all lines were read. */
  unanswered(): Unfit[] {
    return [...this.lineOfUnanswered.values()].map((line) => ({ line, why: "nothing answers this message" }));
  }

  private begin(name: string): void {
    this.seen.add(name);
    this.conversation = name;
    this.roles = [];
    this.pins = 0;
  }
}

/** Why a line can't come after another, if it can't. */
function whyNot(record: ReadRecord, after: number | null, roles: readonly ("visitor" | "app")[]): string | undefined {
  if (record.pin && record.role === "app") return "a turn is pinned by the message of the visitor";
  if ((record.clear || record.clearFor) && record.role === "visitor") return "a line is cleared after a reply";
  if (record.role === "app" && after === null) return "a conversation begins with the visitor";
  if (after !== null && after > roles.length) return `it comes after message ${after}, which is not there yet`;
  const before = after === null ? undefined : roles[after - 1];
  if (before === record.role)
    return record.role === "visitor" ? "it follows another message of the visitor" : "it follows another reply";
  const { pieces = [] } = record;
  const isSilent = record.text.trim() === "" && pieces.length === 0;
  if (record.role === "visitor" && pieces.some(({ kind }) => kind === "tool" || kind === "data"))
    return "the visitor holds what only a reply can: calls of tools, or data";
  if (record.role === "app" && pieces.some(({ kind }) => kind === "linked"))
    return "the reply holds a picture at an address, which only the visitor can";
  if (record.role === "visitor" && isSilent) return "the visitor says nothing";
  if (record.role === "app" && isSilent && (record.state ?? "complete") === "complete") return "the reply says nothing";
  if (record.continues !== undefined && roles[record.continues - 1] !== "app")
    return `it goes on from message ${record.continues}, which is no reply before it`;
  return undefined;
}

function wordsOf(error: z.ZodError): string {
  const [issue] = error.issues;
  if (!issue) return "it is not as expected";
  if (issue.code === "unrecognized_keys") return `there is no member ${issue.keys.join(", ")}`;
  const place = issue.path.map(String).join(".");
  return `${place || "the line"}: ${issue.message.replace(/^Invalid input: /, "")}`;
}
