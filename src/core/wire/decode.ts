import { type Problem, problem } from "../problem/problem";
import type { ReadEvent } from "../reply/events";
import { Characters, joinedBytes, textIn } from "./charset";
import { type AnswerHead, aroundOf, problemOf } from "./failure";
import type { Cutter, Frame } from "./framing/framing";
import { framingIn, framingOf } from "./framing/framings";
import { excerpt, parseJson, parseShallow } from "./json";
import type { CompiledProfile } from "./profile";
import { Reading } from "./reading/reading";

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
    return new WholeDecoder(head, (text) => [{ event: "problem", take: null, data: problemOf(profile, head, text) }]);
  const { stream, whole } = profile;
  const wholeDecoder = () => new WholeDecoder(head, (text, isWhole) => readWhole(profile, head, text, isWhole));
  const cutter = stream && framingOf(stream.framing).cutter;
  if (stream && isStream(profile, head)) {
    if (stream.framing === "text") return new BodyDecoder(profile, head, stream.end.close === true);
    if (cutter) return new StreamDecoder(profile, head, cutter());
  }
  if (whole?.framing === "text" && framingOf("text").types.test(head.contentType))
    return new BodyDecoder(profile, head, true);
  // many servers give a stream another type than its own: then it is known by how it begins
  if (stream && cutter && head.streamed !== false) {
    const { begins } = framingOf(stream.framing);
    if (begins)
      return new OpeningDecoder(
        head,
        begins,
        whole !== undefined,
        wholeDecoder,
        () => new StreamDecoder(profile, head, cutter()),
      );
  }
  return wholeDecoder();
}

/** Whether an answer is the stream of its profile, by its type. JSON can be either; then it counts what was asked for. */
function isStream({ stream, whole }: CompiledProfile, { contentType, streamed }: AnswerHead): boolean {
  if (!stream) return false;
  const { types, isTold } = framingOf(stream.framing);
  const isTyped =
    stream.types?.some((type) => contentType.toLowerCase().startsWith(type.toLowerCase())) ?? types.test(contentType);
  return isTyped && (isTold || !whole || streamed !== false);
}

class StreamDecoder implements Decoder {
  private readonly characters: Characters;
  private readonly reading: Reading;
  private readonly stream: NonNullable<CompiledProfile["stream"]>;
  private sinceEvent = 0;
  /** Whether the profile knows where an answer says why it finished. */
  private readonly tellsFinish: boolean;

  constructor(
    private readonly profile: CompiledProfile,
    private readonly head: AnswerHead,
    private readonly cutter: Cutter,
  ) {
    this.characters = new Characters(head.contentType);
    this.stream = profile.stream as NonNullable<CompiledProfile["stream"]>;
    this.tellsFinish = this.stream.rules.some(({ finish }) => finish !== undefined);
    this.reading = new Reading(profile, aroundOf(head));
  }

  feed(bytes: Uint8Array): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    const frames = this.cutter.feed(this.characters.feed(bytes));
    this.sinceEvent = frames.length > 0 ? 0 : this.sinceEvent + bytes.length;
    this.readAll(frames, events);
    if (!this.reading.ended && this.sinceEvent > largestEvent)
      this.reading.fail("bad-reply", `One event of the answer is larger than ${largestEvent} bytes.`, events);
    return events;
  }

  close(isWhole = true): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    if (isWhole) this.readAll([...this.cutter.feed(this.characters.close()), ...this.cutter.close()], events);
    if (!this.reading.ended) this.end(isWhole, events);
    return events;
  }

  /** Ends a stream that closed without its end. */
  private end(isWhole: boolean, events: ReadEvent[]): void {
    const { reading, cutter } = this;
    // where an answer says why it finished, one that closes without a word was cut
    const endsByClosing = this.stream.end.close && isWhole && !this.tellsFinish && !cutter.isOpen;
    const stray = cutter.stray?.() ?? "";
    const reported = this.reportedIn(stray);
    // a document that came whole under the type of the stream is an answer all the same
    if (isWhole && reading.count === 0 && !reported && this.profile.whole && isDocument(stray))
      this.endWith(readWhole(this.profile, this.head, stray, true), events);
    else if (reading.finished) reading.end(events);
    else if (reported) reading.failWith(reported, events);
    else if (endsByClosing && stray === "") reading.end(events);
    else {
      if (stray !== "") reading.stray = excerpt(stray);
      const words = reading.strayWords();
      if (reading.count === 0 && isWhole)
        reading.fail(
          "bad-reply",
          `The answer is a stream (${this.head.contentType}), but it holds no event that the profile reads.${words}`,
          events,
        );
      else reading.fail("broken-off", `The provider closed the connection before the reply had ended.${words}`, events);
    }
  }

  private endWith(read: ReadEvent[], events: ReadEvent[]): void {
    this.reading.ended = true;
    events.push(...read);
  }

  /** A failure that came without the framing of the stream. */
  private reportedIn(stray: string): Problem | undefined {
    const document = stray === "" ? undefined : parseShallow(stray);
    if (typeof document !== "object" || document === null) return undefined;
    return this.reading.reported("", document);
  }

  private readAll(frames: Frame[], events: ReadEvent[]): void {
    for (const frame of frames) {
      this.reading.read(this.stream.rules, frame, events);
      if (this.reading.ended) return;
    }
  }
}

/** Looks at how an answer of an unusual type begins, and hands it on to who reads it. */
class OpeningDecoder implements Decoder {
  private readonly characters: Characters;
  private readonly parts: Uint8Array[] = [];
  private opening = "";
  /** Whether its first line has ended. */
  private hasLine = false;
  private chosen: Decoder | undefined;

  constructor(
    head: AnswerHead,
    /** Whether a text begins as the stream does; undefined where more of it is needed. */
    private readonly begins: (opening: string, canBeWhole: boolean) => boolean | undefined,
    private readonly canBeWhole: boolean,
    private readonly whole: () => Decoder,
    private readonly stream: () => Decoder,
  ) {
    this.characters = new Characters(head.contentType);
  }

  feed(bytes: Uint8Array): ReadEvent[] {
    if (this.chosen) return this.chosen.feed(bytes);
    this.parts.push(bytes.slice());
    const text = this.characters.feed(bytes);
    // blanks before it say nothing, and are not gone through again
    const isFirst = this.opening === "";
    this.opening = isFirst ? text.trimStart() : this.opening + text;
    // nor do blanks behind it
    if (this.opening === "" || (this.hasLine && text.trim() === "")) return [];
    this.hasLine ||= /[\r\n]/.test(isFirst ? this.opening : text);
    // a first line that goes on tells no more than it did before
    if (!isFirst && !this.hasLine && this.opening.length <= longestOpening) return [];
    const isStream = this.opening.length > longestOpening ? false : this.begins(this.opening, this.canBeWhole);
    return isStream === undefined ? [] : this.choose(isStream);
  }

  close(isWhole = true): ReadEvent[] {
    // what never said more than a whole document would is one, where the profile reads one
    const events = this.chosen
      ? []
      : this.choose(!this.canBeWhole && this.begins(`${this.opening}\n\n`, false) === true);
    return [...events, ...(this.chosen?.close(isWhole) ?? [])];
  }

  private choose(isStream: boolean): ReadEvent[] {
    const chosen = isStream ? this.stream() : this.whole();
    this.chosen = chosen;
    return this.parts.splice(0).flatMap((part) => chosen.feed(part));
  }
}

/** Characters by which an answer of an unusual type has shown what it is. */
const longestOpening = 1_048_576;

/** Reads a body that is the reply itself. */
class BodyDecoder implements Decoder {
  private readonly characters: Characters;
  private readonly reading: Reading;

  constructor(
    profile: CompiledProfile,
    head: AnswerHead,
    private readonly endsByClosing: boolean,
  ) {
    this.characters = new Characters(head.contentType);
    this.reading = new Reading(profile, aroundOf(head));
  }

  feed(bytes: Uint8Array): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (!this.reading.ended) this.reading.takeBody(this.characters.feed(bytes), events);
    return events;
  }

  close(isWhole = true): ReadEvent[] {
    const events: ReadEvent[] = [];
    if (this.reading.ended) return events;
    if (isWhole) this.reading.takeBody(this.characters.close(), events);
    if (isWhole && this.endsByClosing) this.reading.end(events);
    else this.reading.fail("broken-off", "The provider closed the connection before the reply had ended.", events);
    return events;
  }
}

/** Waits for all of the body, then reads it at once. */
class WholeDecoder implements Decoder {
  private readonly parts: Uint8Array[] = [];
  private size = 0;
  private ended = false;

  constructor(
    private readonly head: AnswerHead,
    private readonly read: (text: string, isWhole: boolean) => ReadEvent[],
  ) {}

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
    return this.read(textIn(joinedBytes(this.parts), this.head.contentType), isWhole);
  }
}

function isDocument(text: string): boolean {
  const document = text === "" ? undefined : parseShallow(text);
  return typeof document === "object" && document !== null;
}

function readWhole(profile: CompiledProfile, head: AnswerHead, text: string, isWhole: boolean): ReadEvent[] {
  const rules = profile.whole?.rules ?? (profile.stream?.framing === "json" ? profile.stream.rules : undefined);
  const document = parseJson(text);
  if (document === undefined && !isWhole)
    return [failed("broken-off", "The provider closed the connection in the middle of its answer.")];
  if (document === undefined) return [failed("bad-reply", notJson(profile, head, text))];
  const events: ReadEvent[] = [];
  const reading = new Reading(profile, aroundOf(head));
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
