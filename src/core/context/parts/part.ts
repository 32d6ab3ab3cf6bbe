import type { Carry } from "../../conversation/message";
import type { Piece } from "../../conversation/pieces";
import type { Content } from "../../revision/content";
import type { FoundPassage, WeighedPassage } from "../../sources/found";
import type { Counts, Holding } from "../../tokens/counts";
import type { WireMessage } from "../../wire/message";
import type { Reason } from "../reason";

/**
 * Who gives way to whom where room is short: the highest first. A part without a rank never does. Between these there
 * is room for further parts.
 */
export const ranks = { pins: 10, opening: 20, summary: 30, passages: 35, turns: 40 } as const;

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
  /** Whether the API has a place for the schema of a reply. */
  takesSchema: boolean;
  /**
   * What the reply that is under way said in the rounds that went through, and what the API gave along with each; and what
   * it said that did not fit its schema, with the words by which it is asked to mend that.
   */
  exchange: { pieces: readonly Piece[]; carry: readonly Carry[]; unfit?: { text: string; words: string } };
  /** Counts of the documents that go along whole; they are among `passages` once it was looked for these. */
  wholes?: Counts;
  /** What the message found in the documents, the best first; undefined where it was not looked for yet. */
  passages?: readonly WeighedPassage[];
}

/** Which passage a part is, and where it stands among those that were found, from 1. */
export type PassageOfPart = Omit<FoundPassage, "text"> & { mark: string; rank: number };

/** What a context has of a kind of part. */
export interface Gathered {
  holding: Holding;
  /** Stands for what it says: as long as that is the same, a provider's cache can hold it. */
  mark: string;
  /** How many it is of what it consists of, for the ledger. */
  count?: number;
  /** Tokens that may still come to it before it is sent: money is held for them. */
  mayAdd?: number;
  /** What of it stands in the system prompt, and what before the words of the newest message. */
  words?: string;
  ahead?: string;
  /** What of it goes as messages. */
  messages?: readonly WireMessage[];
  /** Where it is sent, where that is not where its kind is. */
  stands?: PartKind["stands"];
  /** The passage that it is. */
  passage?: PassageOfPart;
  /** Why it is left out whatever room there is: it is listed, and never carried. */
  out?: Reason;
}

/** A kind of part of a context that stands beside the line: one record. */
export interface PartKind {
  kind: string;
  /** Where it is sent: before all messages, before those of the line, or after them. */
  stands: "first" | "before" | "after";
  /** Null for what never gives way. */
  rank: number | null;
  /** Why it is carried, where it is. */
  reason: Reason;
  /** Null where a context has none; several where each of them is carried or not by itself. */
  gather(source: PartSource): Gathered | readonly Gathered[] | null;
}

/** A part that stands beside the line, before anything is decided about it. */
export type BesidePart = Omit<PartKind, "gather"> & Gathered;
