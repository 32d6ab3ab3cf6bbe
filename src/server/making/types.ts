import type { Ledger } from "@/core/context/ledger";
import type { PartSource } from "@/core/context/parts/part";
import type { Carry } from "@/core/conversation/message";
import type { Piece, PlacedPicture, ToolPiece } from "@/core/conversation/pieces";
import type { Caught } from "@/core/guards/guard";
import type { ReadyGuard } from "@/core/guards/looking";
import type { Masks } from "@/core/guards/masks";
import type { Problem } from "@/core/problem/problem";
import type { Candidate, LastEvent, NextAttempt, SaidEvent, TokenCounts, Usage } from "@/core/reply/events";
import type { DispatchNote } from "@/core/reply/note";
import type { Settings } from "@/core/revision/content";
import type { Cited } from "@/core/sources/found";
import type { Calibration } from "@/core/tokens/calibration";
import type { Holding } from "@/core/tokens/counts";
import type { Prices } from "@/core/tokens/price";
import type { AskedCall } from "@/core/tools/calls";
import type { Answerer, Offered, ToolChoice } from "@/core/tools/tool";
import type { Typed } from "@/core/typed/reading";
import type { ReplySchema } from "@/core/typed/schema";
import type { WireMessage } from "@/core/wire/message";
import type { Connection } from "../exchange/connection";
import type { Resolved } from "../exchange/credentials";
import type { Outgoing } from "../exchange/outgoing";
import type { Traffic } from "../exchange/traffic";
import type { FileStore } from "../files/file-store";
import type { Gate, Rank } from "./gate";

/** What a provider counted of what was sent, or of what it said. */
export interface Counted {
  holding: Holding;
  tokens: number;
}

/** What words of a model are wanted for. */
export type Purpose =
  | "reply"
  | "probe"
  | "try"
  | "again"
  | "summary"
  | "comparison"
  | "duet"
  | "check"
  | "judge"
  | "question"
  | "digest"
  | "vectors";

/** A model that may answer, and the provider through which it speaks. */
export interface Speaker {
  connection: Connection;
  model: { name: string; window: number; price: Prices; calibration: Calibration };
}

/** What a speaker is sent. Without a ledger where nobody accounts for it. */
export type Context = ReadyContext | { kind: "refused"; problem: Problem };

/** What a speaker is sent, and what accounts for it. */
export interface ReadyContext {
  kind: "ready";
  messages: WireMessage[];
  ledger: Ledger | null;
  /** The passages that go along, which may be cited. */
  passages?: readonly Cited[];
  /** What was masked in its messages. */
  masks?: Masks;
}

/** The secrets that a request is filled with; or marks in their places. */
export interface Filling {
  key?: string;
  extras: Readonly<Record<string, string>>;
  /** Values of the provider's own, which are no secrets. */
  values: Readonly<Record<string, string>>;
  headers: Readonly<Record<string, string>>;
}

/** What was said in the rounds that went through: pieces, and what the API gave along with each round. */
export type Exchange = PartSource["exchange"];

/** What came of a call of a tool. */
export type ToolAnswer = Pick<ToolPiece, "outcome" | "result">;

/** The tools that a model may ask for. */
export interface Tools {
  offered: readonly Offered[];
  /** Rounds of calls that there may be; the first of them has a number. */
  rounds: number;
  firstRound: number;
  /** How many calls of one round are made at once; those that callers answer all are. */
  together: number;
  /** Who answers each, by its name. */
  answerers: ReadonlyMap<string, Answerer>;
  /** Whether the model calls them in the first round; that it calls none, in all. */
  choice?: ToolChoice;
  /** Whether it may ask for one at a time alone. */
  isSingle?: boolean;
  /** Calls one; it never throws, and has its own limits. @param waits is told whom it waits for, and when it does no more */
  call(asked: AskedCall, signal: AbortSignal, waits: (waitsFor: ToolPiece["waitsFor"]) => void): Promise<ToolAnswer>;
}

/** A reply that has to fit a schema. */
export interface Form {
  schema: ReplySchema;
  /** What was said before of a reply that is gone on with. */
  begun: string;
  /** Whether one that does not fit is asked for once more. */
  mends: boolean;
  /** Reads a whole reply. */
  read(text: string): Typed;
}

/** What a judge says of a reply: it may be shown, or it may not; null where nobody knows. */
export type Verdict = "meets" | "misses" | null;

/** What stands between those who speak with each other. */
export interface OrderGuards {
  /** What the app answers without asking anybody, where what was said is refused. */
  refusal?: string;
  /** What was caught in what was said. */
  caught: readonly Caught[];
  /** Those before showing that look at text while it comes. */
  shown: readonly ReadyGuard[];
  /** Those that have a model judge the whole reply: all of it waits for them. */
  judges: readonly ReadyGuard[];
  judge?(guard: ReadyGuard["guard"], text: string, signal: AbortSignal): Promise<Verdict>;
}

/** What is to be made. */
export interface Order {
  /** Who waits behind whom where a provider has no place left. */
  rank: Rank;
  /** Who is asked, and who next where one fails before any text. */
  speakers: readonly [Speaker, ...Speaker[]];
  /** What a speaker is to be sent, after some rounds or before any; as slow as it may be. @param signal that it is not wanted any more */
  gather(speaker: Speaker, exchange: Exchange, signal: AbortSignal): Context | Promise<Context>;
  /** None where it may ask for nothing. Where it may, one take is asked for. */
  tools?: Tools;
  /** None where it may be any text. Where it has to fit a schema, one take is asked for. */
  form?: Form;
  guards?: OrderGuards;
  /** Holds the money for a further round; the problem where there is none left. */
  hold?(speaker: Speaker, context: ReadyContext): Problem | undefined;
  settings: Settings;
  /** Whether a stream is wanted, where the API has one. */
  streams: boolean;
  /** Takes that are asked for in one call, from 1. */
  takes: number;
  /** Characters that were there before, and the last of them. */
  begun: number;
  begunEnd?: string;
  /** Answers that were recorded, or are; `leave` gives a text with the names of what the clock said in it. */
  traffic?: { by: Traffic; leave(text: string): string };
  /** The request itself, where it is not the profile's. */
  request?(speaker: Speaker, filling: Filling): Outgoing & { body?: string };
}

/** What making needs of the process that it runs in. */
export interface Means {
  resolve(connection: Connection): Promise<Resolved>;
  /** Lets go of a token that was refused; says whether there was one. */
  forget(connection: Connection): boolean;
  hasToken(connection: Connection): boolean;
  /** A request signed as its provider wants it. */
  sign(
    connection: Connection,
    outgoing: Outgoing,
    secrets: readonly string[],
    signal: AbortSignal,
  ): Promise<{ outgoing: Outgoing; problem?: undefined } | { problem: Problem }>;
  gate: Gate;
  /** Finds the bytes of a picture, and keeps those of one that a model made. */
  files: Pick<FileStore, "find" | "keep">;
}

/** A request as it is kept: the key hidden. */
export interface KeptRequest {
  method: string;
  url: string;
  headers: Record<string, string>;
  body: string;
}

/** What is known of a dispatch when it begins. */
export interface BegunDispatch {
  id: string;
  /** Counted from 1: another round where tools were called. */
  round: number;
  /** Counted within the making, from 1. */
  attempt: number;
  providerId: string;
  provider: string;
  model: string;
  profileText: string;
  request: KeptRequest;
  ledger: Ledger | null;
  prices: Prices;
  /** Epoch milliseconds. */
  startedAt: number;
}

/** How a dispatch came out. */
export interface EndedDispatch {
  id: string;
  status: number | null;
  /** Of the answer. */
  headers: Record<string, string>;
  outcome: LastEvent;
  usage: Usage | undefined;
  /** What the provider counted of texts that are at hand. */
  counted: Counted[];
  /** What was odd about it. */
  notes: DispatchNote[];
  /** What the provider calls the model that answered. */
  version: string | undefined;
  /** Epoch milliseconds. */
  endedAt: number;
}

/** Gets what comes of a making, as it comes. */
export interface Sink {
  /** A call goes out. */
  begin(dispatch: BegunDispatch): void;
  /** Bytes of its answer, without secrets, so many milliseconds after its start. */
  bytes(dispatch: string, bytes: Buffer, at: number): void;
  /** None of its bytes may be kept. */
  leaveOutBytes(dispatch: string): void;
  /** What a take says, counted from 0. */
  say(take: number, event: SaidEvent): void;
  /** Resolves when all that was said is committed: before a tool is called, it is written that it was asked for. */
  settled(): Promise<void>;
  /** What comes next, and why. */
  next(attempt: NextAttempt): void;
  end(dispatch: EndedDispatch): void;
}

/** One take, as one attempt gave it. */
export interface AttemptedTake {
  text: string;
  thought: string;
  /** Its pictures, in its text. */
  pictures: readonly PlacedPicture[];
  /** The calls of tools that it asks for. */
  calls: AskedCall[];
  cited: CitedIn;
  /** What guards caught in it. */
  caught: readonly Caught[];
  last: LastEvent;
}

/** What a take cites: passages that it had, each once, and marks of such as it did not have. */
export interface CitedIn {
  cites: readonly Cited[];
  strayMarks: readonly string[];
}

/** What came of an attempt. */
export interface Attempted {
  speaker: Candidate;
  takes: readonly [AttemptedTake, ...AttemptedTake[]];
  /** HTTP status of the answer. */
  status: number | null;
  /** Tokens as the provider counted them. */
  counts?: Partial<TokenCounts>;
  usage?: Usage;
  /** `performance.now()` at the first text. */
  firstTextAt?: number;
  /** Characters that arrived in each of up to 24 equal parts of the time from first text to last. */
  trace?: number[];
  /** What the API wants back with the next call. */
  carry?: unknown;
  /** What the provider calls the model. */
  version?: string;
  /** Has the end of its dispatch kept, which waits for a judge; its bytes only where what it said is shown. */
  settle?(isShown: boolean): void;
}

/** One take, as it came out after all rounds. */
export interface Take {
  pieces: Piece[];
  thought: string;
  cited?: CitedIn;
  /** What guards caught in what was sent for it, and in it. */
  caught?: readonly Caught[];
  last: LastEvent;
}

/** What came of a making: what is said of the last attempt, and of all together. */
export interface Made extends Omit<Attempted, "takes" | "carry" | "settle"> {
  takes: readonly [Take, ...Take[]];
  attempts: number;
  /** Rounds that went through before the last one. */
  rounds: number;
  /** What the attempts before the last one cost, in the currency of its usage. */
  paidBefore: number;
  /** The attempts that failed before any text. */
  failures: (Candidate & { problem: Problem })[];
  /** What the API wants back with the next call, of each round. */
  carry: Carry[];
  /** Whether it was asked for once more, since it did not fit its schema. */
  isMended?: true;
}

/** A making that is under way. */
export interface Making {
  /** Resolves when it has ended; rejects only over an error of our own. */
  made: Promise<Made>;
  /** Ends it early, with what it then ends with; resolves when the provider's connection is closed. */
  stop(last: LastEvent): Promise<void>;
}

/** A parameter that has `means`. */
export interface HasMeans {
  /** What words of a model are made with. */
  means: Means;
}
