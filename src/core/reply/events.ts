import type { Problem } from "../problem/problem";

/** Why a reply ended, in our words; a wire profile maps a provider's words to these. */
export const endReasons = ["complete", "length", "stop-word", "tools", "refused", "stopped"] as const;
export type EndReason = (typeof endReasons)[number];

/** Tokens as the provider counted them, or as estimated where it did not say. */
export interface TokenCounts {
  /** Tokens of everything that was sent. */
  input: number;
  /** Tokens of the reply. */
  output: number;
  /** The part of `input` that the provider had in its cache. */
  cachedInput?: number;
  /** The part of `output` that was reasoning. */
  thought?: number;
}

/** What a reply cost: counts, whether they are only estimated, and the price in `currency`. */
export interface Usage extends TokenCounts {
  estimated: boolean;
  price: number;
  currency: string;
}

/** A part of a tool call as it is read: fragments of one `block` belong together. */
export interface ToolFragment {
  block: string;
  id?: string;
  name?: string;
  /** A part of the arguments' JSON. */
  arguments?: string;
  take?: number;
}

/** What a decoder reads from a provider's bytes; `take` counts from 1 for the takes beside the first. */
export type ReadEvent =
  | { event: "text"; data: { text: string; take?: number } }
  | { event: "thought"; data: { text: string; take?: number } }
  | { event: "tool"; data: ToolFragment }
  | { event: "carry"; data: { value: unknown } }
  | { event: "counts"; data: Partial<TokenCounts> }
  /** A count that is none, and was left out; `found` is what stood there. */
  | { event: "left-out"; data: { count: keyof TokenCounts; found: string } }
  | { event: "end"; data: { reason: EndReason } }
  | { event: "problem"; data: Problem };

/** Who answers, and where the reply belongs; always the first event of a reply. */
export interface ReplyHead {
  reply: string;
  conversation: string;
  /** The visitor's message that this replies to. */
  message: string;
  revision: number;
  provider: string;
  model: string;
  /** The reply that this one goes on from. */
  continues?: string;
}

/** A further attempt to get the reply, after one that failed before any text. */
export interface NextAttempt {
  /** Counted from 1. */
  attempt: number;
  provider: string;
  model: string;
  /** Seconds until it is made. */
  after: number;
  because: Problem;
}

/** What a reader of a reply gets, over the wire and in the core alike. */
export type ReplyEvent =
  | { event: "reply"; data: ReplyHead }
  | { event: "text"; data: { text: string } }
  | { event: "thought"; data: { text: string } }
  | { event: "attempt"; data: NextAttempt }
  | { event: "usage"; data: Usage }
  | { event: "end"; data: { reason: EndReason } }
  | { event: "problem"; data: Problem };

/** A published event with its place in the reply, counted from 1. */
export type NumberedEvent = ReplyEvent & { id: number };

/** Whether an event is the last of its reply. */
export function isLast(event: { event: string }): boolean {
  return event.event === "end" || event.event === "problem";
}
