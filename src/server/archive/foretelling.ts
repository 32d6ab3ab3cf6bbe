import { measure } from "@/core/context/assemble";
import type { Reach } from "@/core/context/reach";
import { isAnswer, type Row, rowOf } from "@/core/context/row";
import type { Message, VisitorMessage } from "@/core/conversation/message";
import type { Candidate } from "@/core/reply/events";
import type { Content } from "@/core/revision/content";
import { tokensOfCounts } from "@/core/tokens/calibration";
import type { Counts } from "@/core/tokens/counts";
import { priceOf } from "@/core/tokens/price";
import type { PiecePlaces } from "@/core/wire/places";
import type { MessageStore } from "../conversations/message-store";
import type { StoredModel } from "../providers/provider-store";
import { ForeseenSummaries } from "./foreseen";

/** What a line is to be said again on: all of it can be handed to another thread. */
export interface ForetellInput {
  /** The last message of the line. */
  end: string;
  content: Content;
  /** Who is to answer. */
  by: Candidate;
  model: Pick<StoredModel, "window" | "calibration" | "price">;
  /** What becomes of pieces in its requests. */
  places: PiecePlaces;
  /** Who sums up; null where no summary is made. */
  summariser: StoredModel | null;
  /** Counts of the documents that go along whole with each message. */
  wholes: Counts | undefined;
  /** Epoch milliseconds. */
  now: number;
}

/** What saying a line again would take. */
export interface Foretold {
  messages: number;
  /** Tokens. */
  input: number;
  output: number;
  summaries: ForeseenSummaries["sum"] | null;
  /** In the currency of the model. */
  price: number;
  currency: string;
}

/** Turns that are read at a time. */
const turnsAtOnce = 50;
/** Messages above one that are looked at for what it would carry. */
const mostSeen = 200;

/**
 * What it would take to say a line again: as much as its replies had the first time. It says after each turn that
 * others may have theirs.
 */
export function* foretell(
  messages: Pick<MessageStore, "message" | "stretch">,
  { end, content, by, model, places, summariser, wholes, now }: ForetellInput,
): Generator<undefined, Foretold> {
  const { window, calibration, price } = model;
  const { memory } = content;
  const foreseen = summariser && memory.kind === "summary" ? new ForeseenSummaries(memory, summariser, by) : undefined;
  const asked = { content, variables: content.samples ?? {}, by, window, places, calibration, wholes, now };
  const foretold = { messages: 0, input: 0, output: 0 };
  const above: Row[] = [];
  let visitor: VisitorMessage | undefined;
  let reach: Reach | undefined;
  for (const message of lineOf(messages, end)) {
    const row = rowOf(message);
    above.push(message.role === "app" ? { ...row, by } : row);
    if (above.length > mostSeen) above.shift();
    if (message.role === "visitor") {
      const summaries = foreseen?.newest && [foreseen.newest];
      const measured = measure({ ...asked, summaries }, [...above]);
      reach = measured.kind === "ready" ? measured.reach : undefined;
      foretold.messages += 1;
      foretold.input += reach?.tokens ?? window;
      visitor = message;
      yield;
    } else {
      foretold.output += message.reported ?? Math.round(tokensOfCounts(message.counts, calibration));
      if (visitor && isAnswer(row)) foreseen?.answered({ visitor, reply: message }, reach);
    }
  }
  return {
    ...foretold,
    summaries: foreseen?.sum ?? null,
    price: priceOf(foretold, price) + (foreseen?.sum.price ?? 0),
    currency: price.currency,
  };
}

/** The messages of a line, from its root. */
export function* lineOf(
  messages: Pick<MessageStore, "message" | "stretch">,
  end: string,
): Generator<Message | VisitorMessage> {
  const turns = messages.message(end)?.turn ?? 0;
  for (let from = 1; from <= turns; from += turnsAtOnce)
    yield* messages.stretch(end, from, Math.min(from + turnsAtOnce - 1, turns));
}
