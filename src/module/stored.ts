import type { Call, Citation, Failure, Picture, Said } from "./types";

/** A message as the app gives it. */
interface Stored {
  id: string;
  role: "visitor" | "app";
  state?: Said["state"];
  pieces: readonly (
    | ({ kind: "tool"; text?: undefined } & Call)
    | { kind: "data"; text?: undefined; value: unknown }
    | ({ kind: "picture"; text?: undefined } & Picture)
    | { kind: "other"; text?: string }
  )[];
  at: number;
  cursor?: number;
  siblings?: string[];
  rating?: Said["rating"];
  facts?: {
    hand?: string;
    thought?: string;
    cites?: Citation[];
    problem?: Failure;
    usage?: Usage;
  };
}

/** What a reply cost, as far as the app tells it. */
interface Usage {
  input?: number;
  output?: number;
  price?: number;
  currency?: string;
}

/** A page of a conversation, the latest first. */
export interface Page {
  messages: Stored[];
  before: string | null;
}

/** A message as it is shown. */
export function saidOf({ id, role, state = "said", pieces, at, siblings = [], rating = null, facts }: Stored): Said {
  const { thought = "", cites = [], problem = null, usage, hand } = facts ?? {};
  return {
    id,
    role,
    text: pieces.map(({ text = "" }) => text).join(""),
    pictures: pieces.filter((piece) => piece.kind === "picture"),
    data: pieces.reduce<unknown>((data, piece) => (piece.kind === "data" ? piece.value : data), null),
    state,
    thought,
    cites,
    calls: pieces.reduce<readonly Call[]>(
      (calls, piece) => (piece.kind === "tool" ? withCall(calls, piece) : calls),
      [],
    ),
    failure: problem,
    at,
    ...costOf(usage ?? {}),
    siblings,
    rating,
    isByHand: hand !== undefined,
  };
}

/** A message of a text and pictures, as the app takes it. */
export function messageOf(text: string, pictures: readonly Picture[]): unknown {
  if (pictures.length === 0) return text;
  const words = text.trim() === "" ? [] : [{ kind: "text", text }];
  return [...pictures.map(({ file }) => ({ kind: "picture", file })), ...words];
}

/** Calls with what is newly known of one of them. */
export function withCall(
  calls: readonly Call[],
  { call, round, name, arguments: given, outcome, waitsFor }: Call,
): readonly Call[] {
  const next = { call, round, name, arguments: given, outcome, waitsFor };
  const at = calls.findIndex((each) => each.call === call && each.round === round);
  return at < 0 ? [...calls, next] : calls.map((each, place) => (place === at ? next : each));
}

/** What is told of the cost of a reply; null where the app does not. */
export function costOf({ input, output, price, currency }: Usage) {
  const tokens = input === undefined || output === undefined ? null : input + output;
  return { tokens, price: price ?? null, currency: currency ?? null };
}
