import type { z } from "zod";
import { argumentsText, type PlacedPicture, type pictureSchema } from "@/core/conversation/pieces";
import { addUp, type Caught } from "@/core/guards/guard";
import { GuardedText, guardedWhole, type LetThrough, maskOf } from "@/core/guards/guarded-text";
import type { ReadyGuard } from "@/core/guards/looking";
import { type Masks, mapTexts, type PuttingBack } from "@/core/guards/masks";
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

/** What is said of a take, and what only is thought. */
type Voice = "text" | "thought";

/** What a take says goes this way, character by character: without secrets, with what was masked put back, past the guards. */
interface Way {
  scrub: TextScrubber;
  back: PuttingBack | undefined;
  guarded: GuardedText;
  said: GrowingText;
}

/** A take while it comes. */
interface Coming {
  ways: Record<Voice, Way>;
  /** Whether a guard refused it: nothing more of it is heard. */
  isRefused?: true;
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
  /** Those before showing. */
  guards: readonly ReadyGuard[];
  /** What was masked in what was sent. */
  masks?: Masks;
  /** The end of what the reply said before. */
  begunEnd?: string;
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
  private readonly caughtInCalls = new Map<number, Caught[]>();
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
    for (const [take, coming] of this.coming) {
      for (const voice of ["thought", "text"] as const) {
        const { scrub, back, guarded } = coming.ways[voice];
        this.pass(take, voice, scrub.close());
        this.letThrough(take, voice, guarded.feed(back?.close() ?? ""));
        this.letThrough(take, voice, guarded.close());
      }
      this.guardCalls(take, coming);
    }
  }

  /** Each take as it came out. @param last how all of it ended @param citedBy what a take cites */
  takes(last: LastEvent, citedBy: (take: number) => CitedIn = () => citesNothing): [AttemptedTake, ...AttemptedTake[]] {
    return Array.from({ length: this.of.takes }, (_, take): AttemptedTake => {
      const coming = this.coming.get(take);
      const { ways, pictures = [], calls, last: own, isRefused } = coming ?? {};
      const ending = !own || (last.event === "problem" && !isRefused) ? last : this.hidden(own);
      const asked = isRefused ? [] : calls?.calls(this.of.round);
      return {
        text: ways?.text.said.text ?? "",
        thought: ways?.thought.said.text ?? "",
        pictures,
        calls: (asked ?? []).map((call) => ({ ...call, arguments: this.givenTo(call.arguments) })),
        cited: citedBy(take),
        caught: addUp([
          ...(ways?.thought.guarded.caught ?? []),
          ...(ways?.text.guarded.caught ?? []),
          ...(this.caughtInCalls.get(take) ?? []),
        ]),
        last: calls && !asked ? tooMuchAsked : ending,
      };
    }) as [AttemptedTake, ...AttemptedTake[]];
  }

  /** Whether guards took something out of what was said, or refused it. */
  get isCut(): boolean {
    return this.notes.some(({ kind }) => kind === "guarded");
  }

  /** Arguments of a call as the tool gets them: without secrets, with what was masked put back, and what guards mask masked. */
  private givenTo<T>(given: T): T {
    const whole = this.of.masks?.putBackValue(this.scrubbedValue(given)) ?? this.scrubbedValue(given);
    return mapTexts(whole, (text) => guardedWhole(text, this.of.guards, this.of.masks?.isPutBack).text) as T;
  }

  /** Has guards look at the calls that a take asks for: where one refuses, none of them is made. */
  private guardCalls(take: number, coming: Coming): void {
    if (this.of.guards.length === 0 || coming.isRefused) return;
    const found: Caught[] = [];
    let refusal: string | undefined;
    for (const { arguments: given } of coming.calls.calls(this.of.round) ?? [])
      mapTexts(this.of.masks?.putBackValue(given) ?? given, (text) => {
        const passed = guardedWhole(text, this.of.guards, this.of.masks?.isPutBack);
        found.push(...passed.caught);
        refusal ??= passed.refusal;
        return text;
      });
    this.caughtInCalls.set(take, found);
    if (found.some(({ does }) => does !== "mark")) this.noteCut();
    if (refusal !== undefined) this.refuse(take, coming, refusal);
  }

  /** All that was said, by all takes. */
  get said(): string {
    return [...this.coming.values()].map(({ ways }) => ways.text.said.text + ways.thought.said.text).join("");
  }

  /** What was asked of tools, by all takes. */
  get asked(): string {
    const all = [...this.coming.values()].flatMap(({ calls }) => calls.calls(this.of.round) ?? []);
    return all.map(({ name, arguments: given }) => `${name} ${argumentsText(given)}`).join("\n");
  }

  /** An end without what a provider's words may hold that is for nobody. */
  hidden(last: LastEvent): LastEvent {
    if (last.event === "end") return last;
    return { event: "problem", data: { ...last.data, detail: this.safe(last.data.detail) } };
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
    if (typeof event.take === "number" && this.coming.get(event.take)?.isRefused) return;
    switch (event.event) {
      case "text":
      case "thought":
        if (event.take < this.of.takes)
          this.pass(event.take, event.event, this.comingOf(event.take).ways[event.event].scrub.feed(event.data.text));
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
      const ways = { text: this.way(this.of.begunEnd), thought: this.way() };
      coming = { ways, calls: new CallFragments(), pictures: [] };
      this.coming.set(take, coming);
    }
    return coming;
  }

  private way(begun = ""): Way {
    const { secrets, guards, masks } = this.of;
    const guarded = new GuardedText(guards, masks?.isPutBack);
    if (begun !== "") guarded.begin(begun);
    return { scrub: new TextScrubber(secrets), back: masks?.back(), guarded, said: new GrowingText() };
  }

  /** Sends what was scrubbed on its way. */
  private pass(take: number, voice: Voice, text: string): void {
    if (text === "") return;
    const { scrub, back, guarded } = this.comingOf(take).ways[voice];
    if (scrub.hasFound) this.leaveOutBytes();
    this.letThrough(take, voice, guarded.feed(back?.feed(text) ?? text));
  }

  /** Says what guards let through; where one refuses the rest, its words, and no more. */
  private letThrough(take: number, voice: Voice, { text, refusal }: LetThrough): void {
    const coming = this.comingOf(take);
    if (coming.isRefused) return;
    this.say(take, voice, text);
    if (coming.ways[voice].guarded.isCut) this.noteCut();
    if (refusal !== undefined) this.refuse(take, coming, refusal);
  }

  private refuse(take: number, coming: Coming, says: string): void {
    coming.isRefused = true;
    coming.last = { event: "end", data: { reason: "refused" } };
    const before = coming.ways.text.said.text.trimEnd();
    this.say(take, "text", before === "" ? says : `\n\n${says}`);
  }

  private say(take: number, voice: Voice, text: string): void {
    if (text === "") return;
    if (voice === "text" && take === 0) this.trace.add(performance.now(), text.length);
    this.comingOf(take).ways[voice].said.add(text);
    this.of.say(take, { event: voice, data: { text } });
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
    const { ways, pictures } = this.comingOf(take);
    pictures.push({ at: ways.text.said.text.length, picture: { kind: "picture", ...kept } });
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
    else this.notes.push({ kind: "passed-over", count: 1, found: this.safe(found) });
  }

  private noteMended({ was, is }: { was: string; is: string }): void {
    const noted = this.notes.find((note) => note.kind === "mended");
    if (noted) noted.count += 1;
    else this.notes.push({ kind: "mended", count: 1, was: this.safe(was), is: this.safe(is) });
  }

  /** A text of the answer without secrets; where one stood in it, the bytes hold it in another writing, and are left out. */
  private scrubbed(text: string): string {
    const safe = Scrubber.text(text, this.of.secrets);
    if (safe !== text) this.leaveOutBytes();
    return safe;
  }

  /** A text of the answer that stands beside the reply: without secrets, and past the guards. */
  private safe(text: string): string {
    const { guards, masks } = this.of;
    const { text: passed, refusal, caught } = guardedWhole(this.scrubbed(text), guards, masks?.isPutBack);
    if (caught.some(({ does }) => does !== "mark")) this.noteCut();
    return refusal === undefined ? passed : `${passed}${maskOf("words")}`;
  }

  /** Keeps none of the bytes of an answer that guards took something out of. */
  private noteCut(): void {
    if (this.isCut) return;
    this.notes.push({ kind: "guarded" });
    this.of.leaveOutBytes();
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
