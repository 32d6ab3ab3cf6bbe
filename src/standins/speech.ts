import { type Freedom, seedOf } from "./engine/random";
import { answer, type Said } from "./engine/reply";
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
}

/** What a request asks for, whatever its shape. */
export interface Asked {
  said: Said[];
  /** Tokens that the reply may have; those of the thought count along. */
  maxOutput?: number;
  stop: string[];
  seed?: number;
  freedom: Freedom;
}

/** A reply in the tokens of its stand-in. */
export interface Speech {
  thought: string[];
  text: string[];
  /** Why it ends: by itself, at the output limit, or at a stop word. */
  ended: "itself" | "limit" | "stop word";
}

/**
 * The reply to a request. A conversation that ends with the app's words is gone on from where they
 * stop.
 * @param take counted from 0; each says it in its own words
 */
export function speak(asked: Asked, model: Model, tokensOf: (text: string) => string[], take = 0): Speech {
  const goesOn = asked.said.at(-1)?.by === "app";
  const begun = goesOn ? (asked.said.at(-1)?.text ?? "") : "";
  const heard = goesOn ? asked.said.slice(0, -1) : asked.said;
  const seed = (asked.seed ?? seedOf(JSON.stringify(heard))) + take;
  const answered = answer(heard, seed, {
    isBrief: model.isBrief,
    isCareless: model.isCareless,
    freedom: asked.freedom,
  });
  let { text } = answered;
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
  return { thought, text: tokens.slice(0, room), ended: tokens.length > room ? "limit" : ended };
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
