import { schemaIn, valueBy, written } from "./engine/by-schema";
import { drawingFor } from "./engine/drawing";
import { type Picture, saidOfPictures } from "./engine/pictures";
import { choicesFrom, type Freedom, seedOf } from "./engine/random";
import { answer, type Said } from "./engine/reply";
import {
  argumentsOf,
  type Call,
  type Called,
  callsFor,
  forcedCall,
  type Misplaced,
  misplaced,
  type Offered,
  saidOfCalls,
} from "./engine/tools";
import type { Active } from "./faults/fault";
import type { Pace } from "./pace";

/** A model of a stand-in. */
export interface Model {
  /** Tokens that request and reply may have together. */
  window: number;
  /** Euros per million tokens. */
  price: { input: number; output: number };
  pace: Pace;
  /** Whether it keeps to the point and leaves out what was not asked. */
  isBrief: boolean;
  /** Whether it shows what it thinks. */
  thinks: boolean;
  /** Whether it breaks an instruction now and then. */
  isCareless: boolean;
  /** Whether it sees pictures. */
  sees?: boolean;
  /** Whether it draws where it is asked to. */
  draws?: boolean;
  /** Whether it obeys what stands in passages of documents. */
  isGullible?: boolean;
  /** What goes wrong with the calls of tools that it asks for. */
  misplaces?: Misplaced;
}

/** A model as it is in a call, with what it does wrong there on purpose. */
export function asPlanned(model: Model, { fault }: { fault: Active | undefined }): Model {
  return { ...model, ...(fault?.isGullible ? { isGullible: true } : {}), misplaces: fault?.misplaces };
}

/** What a request asks for, whatever its shape. */
export interface Asked {
  said: Said[];
  /** Tokens that the reply may have; those of the thought count along. */
  maxOutput?: number;
  stop: string[];
  seed?: number;
  freedom: Freedom;
  /** The tools that it may ask for, and what those said that it asked since the newest question. */
  offered?: readonly Offered[];
  /** Those of which one has to be called before anything is said. */
  mustCall?: readonly string[];
  made?: readonly Called[];
  /** Whether what tools said is the last that was sent, so that it is to be answered now. */
  endsWithTools?: boolean;
  /** The JSON Schema that the reply has to fit; the prompt may hold one too. */
  schema?: unknown;
  /** Pictures of the newest question. */
  pictures?: readonly Picture[];
}

/** A reply in the tokens of its stand-in. */
export interface Speech {
  thought: string[];
  text: string[];
  /** The calls of tools that it asks for; it says nothing then. */
  calls: Call[];
  /** What it drew, which comes after its words. */
  drawing?: Buffer;
  /** Why it ends: by itself, at the output limit, at a stop word, or to wait for tools. */
  ended: "itself" | "limit" | "stop word" | "tools";
}

/**
 * The reply to a request. A conversation that ends with the app's words is gone on from where they
 * stop.
 * @param take counted from 0; each says it in its own words
 */
export function speak(asked: Asked, model: Model, tokensOf: (text: string) => string[], take = 0): Speech {
  const isLastOfApp = asked.said.at(-1)?.by === "app";
  const goesOn = isLastOfApp && !asked.endsWithTools;
  const begun = goesOn ? (asked.said.at(-1)?.text ?? "") : "";
  const heard = isLastOfApp ? asked.said.slice(0, -1) : asked.said;
  const { offered = [], made = [], pictures = [], mustCall = [] } = asked;
  const question = heard.at(-1)?.text ?? "";
  const isHeld = mustCall.length > 0 && made.length === 0;
  const open = isHeld ? offered.filter(({ name }) => mustCall.includes(name)) : offered;
  const wanted = goesOn ? [] : callsFor(question, open, made);
  const due = isHeld && wanted.length === 0 ? [forcedCall(question, open)] : wanted;
  const calls =
    model.misplaces && offered.length > 0 && !goesOn ? misplaced(model.misplaces, due, question, offered, made) : due;
  if (calls.length > 0) return { thought: [], text: [], calls, ended: "tools" };
  const drawn = model.draws && !goesOn && pictures.length === 0 ? drawingFor(question) : undefined;
  if (drawn) return { thought: [], text: tokensOf(drawn.says), calls: [], drawing: drawn.png, ended: "itself" };
  const found = [saidOfPictures(pictures), saidOfCalls(made)].filter(Boolean).join(" ") || undefined;
  const seed = (asked.seed ?? seedOf(JSON.stringify(heard))) + take;
  const typed = typedBy(asked, heard);
  const answered = answer(typed?.heard ?? heard, seed, {
    isBrief: model.isBrief,
    isCareless: model.isCareless,
    isGullible: model.isGullible,
    freedom: asked.freedom,
    found,
  });
  let { text } = answered;
  if (typed && !goesOn) text = documentBy(typed, text, seed, model);
  if (goesOn) text = text.startsWith(begun) ? text.slice(begun.length) : " That is all there is to say about it.";
  let ended: Speech["ended"] = "itself";
  for (const word of asked.stop)
    if (word !== "" && text.includes(word)) {
      text = text.slice(0, text.indexOf(word));
      ended = "stop word";
    }
  const thought = model.thinks && !goesOn ? tokensOf(answered.thought) : [];
  const tokens = tokensOf(text || "…");
  const room = asked.maxOutput === undefined ? tokens.length : Math.max(asked.maxOutput - thought.length, 1);
  return { thought, text: tokens.slice(0, room), calls: [], ended: tokens.length > room ? "limit" : ended };
}

/** A reply that has to fit a schema: by a member of the request, or by words of the prompt. */
interface Typed {
  schema: unknown;
  /** What was said, without what was said of an answer that did not fit. */
  heard: readonly Said[];
}

function typedBy({ schema: given }: Asked, heard: readonly Said[]): Typed | undefined {
  const schema = given ?? schemaIn(heard.flatMap(({ by, text }) => (by === "system" ? [text] : [])).join("\n"));
  if (schema === undefined) return undefined;
  const isMend = /does not fit|is no JSON/i.test(heard.at(-1)?.text ?? "") && heard.at(-2)?.by === "app";
  return { schema, heard: isMend ? heard.slice(0, -2) : heard };
}

/** The document that fits; the careless one's at times does not, and always the same. */
function documentBy({ schema, heard }: Typed, text: string, seed: number, { isCareless }: Model): string {
  const question = heard.findLast(({ by }) => by === "visitor")?.text ?? "";
  const prompt = heard.flatMap(({ by, text }) => (by === "system" ? [text] : [])).join("\n");
  const value = valueBy(schema, { question, text, prompt }, choicesFrom(seed));
  return written(value, isCareless && seed % 6 === 0 ? Math.floor(seed / 6) % 4 : undefined);
}

/** A number that a request may leave out; undefined too where it is none. */
export function numberIn(value: unknown): number | undefined {
  return typeof value === "number" && Number.isFinite(value) ? value : undefined;
}

/** Stop words, given as one text or as a list. */
export function stopWordsIn(value: unknown): string[] {
  if (typeof value === "string") return [value];
  return Array.isArray(value) ? value.map(String) : [];
}

/** A part of calls as an API streams them: it begins one, or adds to its arguments. */
export interface CallFragment {
  /** Which call, from 0. */
  index: number;
  /** Where it begins. */
  name?: string;
  /** A part of the arguments' JSON. */
  arguments: string;
}

/** Calls in fragments of up to eight letters, one call after another. */
export function fragmentsOf(calls: readonly Call[]): CallFragment[] {
  return calls.flatMap((call, index) => [
    { index, name: call.name, arguments: "" },
    ...(argumentsOf(call).match(/.{1,8}/gsu) ?? []).map((part) => ({ index, arguments: part })),
  ]);
}

/** Tokens of calls, by the tokens of a stand-in. */
export function tokensOfCalls(calls: readonly Call[], tokensOf: (text: string) => string[]): number {
  return calls.reduce((sum, call) => sum + tokensOf(`${call.name} ${argumentsOf(call)}`).length + 3, 0);
}
