import type { ReadEvent, TokenCounts } from "../reply/events";
import { type Problem, problem } from "../reply/problem";
import { SseFraming } from "./framing/sse";
import { type CompiledProfile, type CompiledRule, problemKindOf } from "./profile";

/** What is known of an answer before its body comes. */
export interface AnswerHead {
  status: number;
  /** The Content-Type header; empty where there is none. */
  contentType: string;
  /** Seconds, from a Retry-After header. */
  retryAfter?: number;
}

/** Reads an answer from bytes that may be cut anywhere. Never throws: what can't be read is a problem event. */
export interface Decoder {
  /** The events that these bytes complete. After an end or a problem there are none. */
  feed(bytes: Uint8Array): ReadEvent[];
  /** The events that the close of the stream completes; an end or a problem has come by then. */
  close(): ReadEvent[];
}

/** The largest event or whole answer that is read, in UTF-16 units. */
export const largestEvent = 64 * 1024 * 1024;

/** The decoder for an answer: chosen by status and content type, an error, a stream or a whole. */
export function createDecoder(profile: CompiledProfile, head: AnswerHead): Decoder {
  if (head.status >= 300 || head.status < 200) return new WholeDecoder((text) => readProblem(profile, head, text));
  if (/^text\/event-stream\b/i.test(head.contentType)) return new StreamDecoder(profile);
  return new WholeDecoder((text) => readWhole(profile, head, text));
}

/** Collects what rules take from documents, and knows when a reply has ended. */
class Reading {
  private counts: Partial<TokenCounts> = {};
  private finish: string | undefined;
  private hasText = false;
  ended = false;

  constructor(private readonly profile: CompiledProfile) {}

  take(rules: CompiledRule[], document: unknown, events: ReadEvent[]): void {
    for (const rule of rules) {
      const text = rule.text?.first(document);
      if (typeof text === "string" && text !== "") {
        this.hasText = true;
        events.push({ event: "text", data: { text } });
      }
      const thought = rule.thought?.first(document);
      if (typeof thought === "string" && thought !== "") events.push({ event: "thought", data: { text: thought } });
      const finish = rule.finish?.first(document);
      if (typeof finish === "string") this.finish = finish;
      if (rule.usage) this.count(rule.usage, document);
    }
  }

  /** A failure that the provider reports inside an answer that began well. */
  reported(document: unknown): Problem | undefined {
    const message = this.profile.problemMessage.first(document);
    if (message === undefined) return undefined;
    return problem(problemKindOf(this.profile, 500, document), `The provider reports: ${String(message)}`);
  }

  end(events: ReadEvent[]): void {
    this.ended = true;
    if (Object.keys(this.counts).length > 0) events.push({ event: "counts", data: this.counts });
    const reason = this.finish === undefined ? "complete" : this.profile.source.finishWords[this.finish];
    if (reason === undefined)
      events.push(
        failed("bad-reply", `The reply ended with "${this.finish}", which the profile has no word for in finishWords.`),
      );
    else if (!this.hasText && reason !== "refused")
      events.push(failed("empty", "The provider ended the reply without any text."));
    else events.push({ event: "end", data: { reason } });
  }

  fail(kind: Problem["kind"], detail: string, events: ReadEvent[]): void {
    this.failWith(problem(kind, detail), events);
  }

  failWith(reported: Problem, events: ReadEvent[]): void {
    this.ended = true;
    events.push({ event: "problem", data: reported });
  }

  get finished(): boolean {
    return this.finish !== undefined;
  }

  private count(usage: NonNullable<CompiledRule["usage"]>, document: unknown): void {
    for (const name of ["input", "output", "cachedInput", "thought"] as const) {
      const value = usage[name]?.first(document);
      if (typeof value === "number") this.counts[name] = value;
    }
  }
}

class StreamDecoder implements Decoder {
  private readonly utf8 = new TextDecoder();
  private readonly framing = new SseFraming();
  private readonly reading: Reading;
  private sinceEvent = 0;

  constructor(private readonly profile: CompiledProfile) {
    this.reading = new Reading(profile);
  }

  feed(bytes: Uint8Array): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    const frames = this.framing.feed(this.utf8.decode(bytes, { stream: true }));
    this.sinceEvent = frames.length > 0 ? 0 : this.sinceEvent + bytes.length;
    for (const frame of frames) {
      this.read(frame.data, events);
      if (this.reading.ended) return events;
    }
    if (this.sinceEvent > largestEvent)
      this.reading.fail("bad-reply", `One event of the answer is larger than ${largestEvent} bytes.`, events);
    return events;
  }

  close(): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    if (this.reading.finished) this.reading.end(events);
    else this.reading.fail("broken-off", "The provider closed the connection before the reply had ended.", events);
    return events;
  }

  private read(data: string, events: ReadEvent[]): void {
    const { sentinel } = this.profile.source.answer.stream;
    const document = data === sentinel ? undefined : parseJson(data);
    const reported = document === undefined ? undefined : this.reading.reported(document);
    if (data === sentinel) this.reading.end(events);
    else if (document === undefined)
      this.reading.fail("bad-reply", `An event of the answer is not JSON: ${excerpt(data)}`, events);
    else if (reported) this.reading.failWith(reported, events);
    else this.reading.take(this.profile.stream, document, events);
  }
}

/** Waits for all of the body, then reads it at once. */
class WholeDecoder implements Decoder {
  private readonly utf8 = new TextDecoder();
  private parts: string[] = [];
  private size = 0;
  private ended = false;

  constructor(private readonly read: (text: string) => ReadEvent[]) {}

  feed(bytes: Uint8Array): ReadEvent[] {
    if (this.ended) return [];
    this.size += bytes.length;
    if (this.size > largestEvent) {
      this.ended = true;
      return [failed("bad-reply", `The answer is larger than ${largestEvent} bytes.`)];
    }
    this.parts.push(this.utf8.decode(bytes, { stream: true }));
    return [];
  }

  close(): ReadEvent[] {
    if (this.ended) return [];
    this.ended = true;
    return this.read(this.parts.join("") + this.utf8.decode());
  }
}

function readWhole(profile: CompiledProfile, head: AnswerHead, text: string): ReadEvent[] {
  const document = parseJson(text);
  if (document === undefined)
    return [
      failed(
        "bad-reply",
        `The provider answered with ${head.contentType || "an unnamed type"} that is not JSON: ${excerpt(text)}`,
      ),
    ];
  const events: ReadEvent[] = [];
  const reading = new Reading(profile);
  const reported = reading.reported(document);
  if (reported) reading.failWith(reported, events);
  else {
    reading.take(profile.whole, document, events);
    reading.end(events);
  }
  return events;
}

function readProblem(profile: CompiledProfile, head: AnswerHead, text: string): ReadEvent[] {
  const document = parseJson(text);
  const kind = problemKindOf(profile, head.status, document);
  const message = profile.problemMessage.first(document) ?? excerpt(text);
  const redirect = head.status < 400 ? " (a redirect, which is not followed since the call carries a key)" : "";
  const said = `The provider answered with status ${head.status}${redirect}${message ? `: ${String(message)}` : " and no explanation."}`;
  return [
    {
      event: "problem",
      data: problem(kind, said, head.retryAfter === undefined ? {} : { retryAfter: head.retryAfter }),
    },
  ];
}

function failed(kind: Problem["kind"], detail: string): ReadEvent {
  return { event: "problem", data: problem(kind, detail) };
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function excerpt(text: string): string {
  const line = text.replace(/\s+/g, " ").trim();
  return line.length > 160 ? `${line.slice(0, 160)}…` : line;
}
