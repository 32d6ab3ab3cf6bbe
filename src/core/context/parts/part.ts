import type { Carry } from "../../conversation/message";
import type { Piece } from "../../conversation/pieces";
import type { Content } from "../../revision/content";
import type { Holding } from "../../tokens/counts";
import type { WireMessage } from "../../wire/message";
import type { Reason } from "../reason";

/**
 * Who gives way to whom where room is short: the highest first. A part without a rank never does. Between these there
 * is room for further parts.
 */
export const ranks = { pins: 10, opening: 20, summary: 30, turns: 40 } as const;

/** What becomes of a part, and why. */
export interface Fate {
  carried: boolean;
  reason: Reason;
}

/** All that parts which stand beside the line are made from. */
export interface PartSource {
  content: Content;
  /** The system prompt, its variables filled. */
  prompt: string;
  /** What the reply that is under way said in the rounds that went through, and what the API gave along with each. */
  exchange: { pieces: readonly Piece[]; carry: readonly Carry[] };
}

/** What a context has of a kind of part. */
export interface Gathered {
  holding: Holding;
  /** Stands for what it says: as long as that is the same, a provider's cache can hold it. */
  mark: string;
  /** How many it is of what it consists of, for the ledger. */
  count?: number;
  /** Tokens that may still come to it before it is sent: money is held for them. */
  mayAdd?: number;
  /** What of it stands in the system prompt. */
  words?: string;
  /** What of it goes as messages. */
  messages?: readonly WireMessage[];
}

/** A kind of part of a context that stands beside the line: one record, in a file of its own. */
export interface PartKind {
  kind: string;
  /** Where it is sent: before all messages, before those of the line, or after them. */
  stands: "first" | "before" | "after";
  /** Null for what never gives way. */
  rank: number | null;
  /** Why it is carried, where it is. */
  reason: Reason;
  /** Null where a context has none. */
  gather(source: PartSource): Gathered | null;
}

/** A part that stands beside the line, before anything is decided about it. */
export type BesidePart = Omit<PartKind, "gather"> & Gathered;
