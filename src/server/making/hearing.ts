import type { z } from "zod";
import { argumentsText, type PlacedPicture, type pictureSchema } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent, ReadEvent, TokenCounts } from "@/core/reply/events";
import type { DispatchNote } from "@/core/reply/note";
import { CallFragments } from "@/core/tools/calls";
import { type AnswerHead, createDecoder, type Decoder } from "@/core/wire/decode";
import { written } from "@/core/wire/json";
import type { CompiledProfile } from "@/core/wire/profile";
import { Scrubber, TextScrubber } from "../security/scrub";
import { citesNothing } from "./citing";
import { GrowingText } from "./growing-text";
import { Trace } from "./trace";
import type { AttemptedTake, CitedIn, Sink } from "./types";

/** Characters that a reply may have, what was there before and its thought included. */
const longestReply = 16 * 1024 * 1024;
/** Characters of what an API wants back with the next call. */
const longestCarry = 256 * 1024;

/** A take while it comes. */
interface Coming {
  said: { text: GrowingText; thought: GrowingText };
  scrub: { text: TextScrubber; thought: TextScrubber };
  calls: CallFragments;
  pictures: PlacedPicture[];
  last?: LastEvent;
}

/** What is heard, and who hears of it. */
export interface HearingOf {
  profile: CompiledProfile;
  /** Takes that were asked for, from 1. */
  takes: number;
  /** The round that the answer belongs to. */
  round: number;
  /** Characters that the reply had before. */
  begun: number;
  /** What must stand in nothing that is kept or shown. */
  secrets: readonly string[];
  say: Sink["say"];
  /** Keeps a picture that came; a text says why it can't be. */
  keep(bytes: Uint8Array): z.infer<typeof pictureSchema> | string;
  /** The bytes hold a secret in pieces: none of them may be kept. */
  leaveOutBytes(): void;
}

/** Reads one answer: from its bytes to what each of its takes says, without secrets. It knows of no connection. */
export class Hearing {
  counts: Partial<TokenCounts> = {};
  carry: unknown;
  version: string | undefined;
  readonly notes: DispatchNote[] = [];
  readonly trace = new Trace();
  private decoder: Decoder | undefined;
  private readonly coming = new Map<number, Coming>();
  private length: number;
  private last: LastEvent | undefined;

  constructor(private readonly of: HearingOf) {
    this.length = of.begun;
  }

  /** Begins with the head of the answer. */
  begin(head: AnswerHead): void {
    this.decoder = createDecoder(this.of.profile, head);
  }

  /** Reads bytes; gives how it ends, once that is known. */
  feed(bytes: Uint8Array): LastEvent | undefined {
    return this.read(this.decoder?.feed(bytes) ?? [], false);
  }

  /** Reads the close of the stream; gives how it ends. @param isWhole whether the answer came to its own end */
  close(isWhole: boolean): LastEvent | undefined {
    return this.read(this.decoder?.close(isWhole) ?? [], true);
  }

  /** Says what is held back because a secret could have begun in it; undefined, or a problem where that is too much. */
  release(): void {
    for (const [take, { scrub }] of this.coming)
      for (const event of ["thought", "text"] as const) this.say(take, event, scrub[event].close());
  }

  /** Each take as it came out. @param last how all of it ended @param citedBy what a take cites */
  takes(last: LastEvent, citedBy: (take: number) => CitedIn = () => citesNothing): [AttemptedTake, ...AttemptedTake[]] {
    return Array.from({ length: this.of.takes }, (_, take): AttemptedTake => {
      const { said, pictures = [], calls, last: own } = this.coming.get(take) ?? {};
      const ending = last.event === "problem" || !own ? last : this.hidden(own);
      const asked = calls?.calls(this.of.round);
      return {
        text: said?.text.text ?? "",
        thought: said?.thought.text ?? "",
        pictures,
        calls: (asked ?? []).map((call) => ({ ...call, arguments: this.scrubbedValue(call.arguments) })),
        cited: citedBy(take),
        last: calls && !asked ? tooMuchAsked : ending,
      };
    }) as [AttemptedTake, ...AttemptedTake[]];
  }

  /** All that was said, by all takes. */
  get said(): string {
    return [...this.coming.values()].map(({ said }) => said.text.text + said.thought.text).join("");
  }

  /** What was asked of tools, by all takes. */
  get asked(): string {
    const all = [...this.coming.values()].flatMap(({ calls }) => calls.calls(this.of.round) ?? []);
    return all.map(({ name, arguments: given }) => `${name} ${argumentsText(given)}`).join("\n");
  }

  /** An end without the secrets that a provider's words may hold. */
  hidden(last: LastEvent): LastEvent {
    if (last.event === "end") return last;
    return { event: "problem", data: { ...last.data, detail: this.scrubbed(last.data.detail) } };
  }

  private read(events: readonly ReadEvent[], isClosed: boolean): LastEvent | undefined {
    for (const event of events) {
      this.take(event);
      if (this.last) return this.last;
    }
    const first = this.coming.get(0)?.last;
    // takes may come one after another: one of which nothing was heard yet may still begin
    const areAllThere = isClosed || this.coming.size >= this.of.takes;
    return areAllThere && first && [...this.coming.values()].every(({ last }) => last) ? first : undefined;
  }

  private take(event: ReadEvent): void {
    switch (event.event) {
      case "text":
      case "thought":
        if (event.take < this.of.takes)
          this.say(event.take, event.event, this.comingOf(event.take).scrub[event.event].feed(event.data.text));
        return;
      case "tool":
        if (event.take < this.of.takes) this.comingOf(event.take).calls.add(event.data);
        return;
      case "counts":
        this.counts = { ...this.counts, ...event.data };
        return;
      case "left-out":
        this.notes.push({ kind: "count-left-out", count: event.data.count, found: this.scrubbed(event.data.found) });
        return;
      case "passed-over":
        this.notePassedOver(event.data.found);
        return;
      case "mended":
        this.noteMended(event.data);
        return;
      case "version":
        this.version = this.scrubbed(event.data.version);
        return;
      case "picture":
        if (event.take < this.of.takes) this.takePicture(event.take, event.data.base64);
        return;
      case "source":
        // the dispatch shows it where it came
        return;
      case "carry":
        if (event.take === 0) this.keepCarry(event.data.value);
        return;
      case "end":
        this.comingOf(event.take).last = { event: "end", data: event.data };
        return;
      case "problem":
        if (event.take === null) this.last = { event: "problem", data: event.data };
        else this.comingOf(event.take).last = { event: "problem", data: event.data };
    }
  }

  /** A take, which begins with the first thing that is heard of it. */
  private comingOf(take: number): Coming {
    let coming = this.coming.get(take);
    if (!coming) {
      const { secrets } = this.of;
      const scrub = { text: new TextScrubber(secrets), thought: new TextScrubber(secrets) };
      const said = { text: new GrowingText(), thought: new GrowingText() };
      coming = { said, scrub, calls: new CallFragments(), pictures: [] };
      this.coming.set(take, coming);
    }
    return coming;
  }

  private say(take: number, event: "text" | "thought", text: string): void {
    if (text === "") return;
    const { said, scrub } = this.comingOf(take);
    if (event === "text" && take === 0) this.trace.add(performance.now(), text.length);
    said[event].add(text);
    if (scrub[event].hasFound) this.leaveOutBytes();
    this.of.say(take, { event, data: { text } });
    this.length += text.length;
    if (this.length > longestReply) this.last = { event: "problem", data: tooLong };
  }

  /** Says a picture, in its place in the text; what is none that is taken is noted. */
  private takePicture(take: number, base64: string): void {
    const kept = this.of.keep(Buffer.from(base64, "base64"));
    if (typeof kept === "string") {
      this.notes.push({ kind: "no-picture", why: kept });
      return;
    }
    // what is held back of the text, since a secret may begin in it, comes after it
    const { said, pictures } = this.comingOf(take);
    pictures.push({ at: said.text.text.length, picture: { kind: "picture", ...kept } });
    this.of.say(take, { event: "picture", data: kept });
  }

  /** Keeps what the API wants back, unless it is too large to be carried. */
  private keepCarry(value: unknown): void {
    if (written(value).length <= longestCarry) this.carry = this.scrubbedValue(value);
  }

  private scrubbedValue<T>(value: T): T {
    if (typeof value === "string") return this.scrubbed(value) as T;
    return JSON.parse(this.scrubbed(written(value))) as T;
  }

  private notePassedOver(found: string): void {
    const noted = this.notes.find((note) => note.kind === "passed-over");
    if (noted) noted.count += 1;
    else this.notes.push({ kind: "passed-over", count: 1, found: this.scrubbed(found) });
  }

  private noteMended({ was, is }: { was: string; is: string }): void {
    const noted = this.notes.find((note) => note.kind === "mended");
    if (noted) noted.count += 1;
    else this.notes.push({ kind: "mended", count: 1, was: this.scrubbed(was), is: this.scrubbed(is) });
  }

  /** A text of the answer without secrets; where one stood in it, the bytes hold it in another writing, and are left out. */
  private scrubbed(text: string): string {
    const safe = Scrubber.text(text, this.of.secrets);
    if (safe !== text) this.leaveOutBytes();
    return safe;
  }

  /** Keeps none of the bytes of an answer that holds a secret in pieces, which could be put together again. */
  private leaveOutBytes(): void {
    if (this.notes.some(({ kind }) => kind === "secret-in-pieces")) return;
    this.notes.push({ kind: "secret-in-pieces" });
    this.of.leaveOutBytes();
  }
}

const limitAdvice = { advice: "Set an output limit in the Model station." };

const tooLong: Problem = problem(
  "bad-reply",
  `The reply is longer than ${longestReply / 1024 / 1024} million characters, and was ended.`,
  limitAdvice,
);

const tooMuchAsked: LastEvent = {
  event: "problem",
  data: problem("bad-reply", "The model asked for more calls of tools than are looked at, or for larger ones."),
};
