import { type Problem, problem } from "../problem/problem";
import type { ReadEvent } from "../reply/events";
import { type AnswerHead, problemOf } from "./failure";
import type { Cutter, Frame } from "./framing/framing";
import { framingIn, framingOf } from "./framing/framings";
import { excerpt, parseJson } from "./json";
import type { CompiledProfile } from "./profile";
import { Reading } from "./reading";

export type { AnswerHead } from "./failure";

/** Reads an answer from bytes that may be cut anywhere. Never throws: what can't be read is a problem event. */
export interface Decoder {
  /** The events that these bytes complete. After an end or a problem there are none. */
  feed(bytes: Uint8Array): ReadEvent[];
  /**
   * The events that the close of the stream completes; an end or a problem has come by then.
   * @param isWhole whether the answer came to its own end, and was not cut off on the way
   */
  close(isWhole?: boolean): ReadEvent[];
}

/** The largest event or whole answer that is read, in UTF-16 units. */
export const largestEvent = 64 * 1024 * 1024;

/** The decoder for an answer: chosen by status and content type, an error, a stream or a whole. */
export function createDecoder(profile: CompiledProfile, head: AnswerHead): Decoder {
  if (head.status >= 300 || head.status < 200)
    return new WholeDecoder((text) => [{ event: "problem", take: null, data: problemOf(profile, head, text) }]);
  const { stream, whole } = profile;
  if (stream && isStream(profile, head)) {
    if (stream.framing === "text") return new BodyDecoder(stream.end.close === true);
    const cutter = framingOf(stream.framing).cutter?.();
    if (cutter) return new StreamDecoder(profile, head, cutter);
  }
  if (whole?.framing === "text" && framingOf("text").types.test(head.contentType)) return new BodyDecoder(true);
  return new WholeDecoder((text, isWhole) => readWhole(profile, head, text, isWhole));
}

/** Whether an answer is the stream of its profile. JSON can be either; then it counts what was asked for. */
function isStream({ stream, whole }: CompiledProfile, { contentType, streamed }: AnswerHead): boolean {
  if (!stream) return false;
  const { types, isTold } = framingOf(stream.framing);
  const isTyped =
    stream.types?.some((type) => contentType.toLowerCase().startsWith(type.toLowerCase())) ?? types.test(contentType);
  return isTyped && (isTold || !whole || streamed !== false);
}

class StreamDecoder implements Decoder {
  private readonly utf8 = new TextDecoder();
  private readonly reading: Reading;
  private readonly stream: NonNullable<CompiledProfile["stream"]>;
  private sinceEvent = 0;
  /** Whether the profile knows where an answer says why it finished. */
  private readonly tellsFinish: boolean;

  constructor(
    profile: CompiledProfile,
    private readonly head: AnswerHead,
    private readonly cutter: Cutter,
  ) {
    this.stream = profile.stream as NonNullable<CompiledProfile["stream"]>;
    this.tellsFinish = this.stream.rules.some(({ finish }) => finish !== undefined);
    this.reading = new Reading(profile);
  }

  feed(bytes: Uint8Array): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    const frames = this.cutter.feed(this.utf8.decode(bytes, { stream: true }));
    this.sinceEvent = frames.length > 0 ? 0 : this.sinceEvent + bytes.length;
    this.readAll(frames, events);
    if (!this.reading.ended && this.sinceEvent > largestEvent)
      this.reading.fail("bad-reply", `One event of the answer is larger than ${largestEvent} bytes.`, events);
    return events;
  }

  close(isWhole = true): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    if (isWhole) this.readAll([...this.cutter.feed(this.utf8.decode()), ...this.cutter.close()], events);
    if (this.reading.ended) return events;
    // where an answer says why it finished, one that closes without a word was cut
    const endsByClosing = this.stream.end.close && isWhole && !this.tellsFinish && !this.cutter.isOpen;
    if (this.reading.finished || endsByClosing) this.reading.end(events);
    else if (this.reading.count === 0 && isWhole)
      this.reading.fail(
        "bad-reply",
        `The answer is a stream (${this.head.contentType}), but it holds no event that the profile reads.`,
        events,
      );
    else this.reading.fail("broken-off", "The provider closed the connection before the reply had ended.", events);
    return events;
  }

  private readAll(frames: Frame[], events: ReadEvent[]): void {
    for (const frame of frames) {
      this.reading.read(this.stream.rules, frame, events);
      if (this.reading.ended) return;
    }
  }
}

/** Reads a body that is the reply itself. */
class BodyDecoder implements Decoder {
  private readonly utf8 = new TextDecoder();
  private hasText = false;

  constructor(private readonly endsByClosing: boolean) {}

  feed(bytes: Uint8Array): ReadEvent[] {
    return this.texts(this.utf8.decode(bytes, { stream: true }));
  }

  close(isWhole = true): ReadEvent[] {
    const rest = isWhole ? this.texts(this.utf8.decode()) : [];
    if (!isWhole || !this.endsByClosing)
      return [...rest, failed("broken-off", "The provider closed the connection before the reply had ended.")];
    if (!this.hasText) return [failed("empty", "The provider ended the reply without any text.")];
    return [...rest, { event: "end", take: 0, data: { reason: "complete" } }];
  }

  private texts(text: string): ReadEvent[] {
    if (text === "") return [];
    this.hasText = true;
    return [{ event: "text", take: 0, data: { text } }];
  }
}

/** Waits for all of the body, then reads it at once. */
class WholeDecoder implements Decoder {
  private readonly parts: Uint8Array[] = [];
  private size = 0;
  private ended = false;

  constructor(private readonly read: (text: string, isWhole: boolean) => ReadEvent[]) {}

  feed(bytes: Uint8Array): ReadEvent[] {
    if (this.ended) return [];
    this.size += bytes.length;
    if (this.size > largestEvent) {
      this.ended = true;
      return [failed("bad-reply", `The answer is larger than ${largestEvent} bytes.`)];
    }
    this.parts.push(bytes);
    return [];
  }

  close(isWhole = true): ReadEvent[] {
    if (this.ended) return [];
    this.ended = true;
    return this.read(new TextDecoder().decode(joinedBytes(this.parts, this.size)), isWhole);
  }
}

function joinedBytes(parts: Uint8Array[], size: number): Uint8Array {
  const [first] = parts;
  if (parts.length === 1 && first) return first;
  const all = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

function readWhole(profile: CompiledProfile, head: AnswerHead, text: string, isWhole: boolean): ReadEvent[] {
  const rules = profile.whole?.rules ?? (profile.stream?.framing === "json" ? profile.stream.rules : undefined);
  const document = parseJson(text);
  if (document === undefined && !isWhole)
    return [failed("broken-off", "The provider closed the connection in the middle of its answer.")];
  if (document === undefined) return [failed("bad-reply", notJson(profile, head, text))];
  const events: ReadEvent[] = [];
  const reading = new Reading(profile);
  const reported = reading.reported("", document);
  if (reported) reading.failWith(reported, events);
  else if (!rules)
    reading.fail(
      "bad-reply",
      `The profile reads a stream, and the answer is one ${head.contentType || "document"}: ${excerpt(text)}`,
      events,
    );
  else {
    reading.take(rules, "", document, events);
    reading.end(events, "whole", document);
  }
  return events;
}

function notJson({ stream }: CompiledProfile, { contentType }: AnswerHead, text: string): string {
  const found = `The provider answered with ${contentType || "an unnamed type"} that is not JSON: ${excerpt(text)}`;
  const looks = framingIn(text);
  if (looks === "text" || looks === "json" || looks === stream?.framing) return found;
  return `${found} It looks like ${framingOf(looks).saying}, which the profile does not expect.`;
}

function failed(kind: Problem["kind"], detail: string): ReadEvent {
  return { event: "problem", take: null, data: problem(kind, detail) };
}
