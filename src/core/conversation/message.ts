import type { Problem } from "../problem/problem";
import type { Usage } from "../reply/events";
import type { ReplyState } from "../reply/reply";

/** One part of a message's content. */
export type Piece = { kind: "text"; text: string };

/** A provider and a model of it, by their names. */
export interface Candidate {
  provider: string;
  model: string;
}

/** What a stored reply knows of its making. */
export interface ReplyFacts extends Candidate {
  revision: number;
  thought?: string;
  usage?: Usage;
  problem?: Problem;
  /** Milliseconds after the call came at which its message was stored, its revision fixed, its context assembled. */
  steps?: { visitor: number; prompt: number; memory: number };
  /** Milliseconds from the dispatch to the first text. */
  firstTextMs?: number;
  /** Milliseconds from the dispatch to the end. */
  totalMs?: number;
  /** How many attempts it took, where it took several. */
  attempts?: number;
  /** The attempts that failed before any text. */
  failures?: (Candidate & { problem: Problem })[];
  /** The model that should have answered, where it was another that did. */
  insteadOf?: Candidate;
  /** What the API gave along, to have it back with the next call. */
  carry?: unknown;
  /** Characters that arrived in each of up to 24 equal parts of the time from first text to end. */
  trace?: number[];
}

interface Base {
  id: string;
  /** The message before this one; null at the root of the tree. */
  parent: string | null;
  /** Messages above this one in the tree, from 0. */
  depth: number;
  pieces: Piece[];
  /** Tokens of the pieces: as reported for replies, else as estimated. */
  tokens: number;
  /** Epoch milliseconds, UTC. */
  at: number;
}

/** What a visitor said. */
export interface VisitorMessage extends Base {
  role: "visitor";
}

/** What the app answered, or is answering. */
export interface AppMessage extends Base {
  role: "app";
  state: ReplyState;
  /** The reply that this take goes on from. */
  continues: string | null;
  facts: ReplyFacts;
}

/** A node of a conversation's tree. Takes of one reply are siblings. */
export type Message = VisitorMessage | AppMessage;

/** The text of a message, its text pieces joined. */
export function textOf(message: { pieces: Piece[] }): string {
  return message.pieces.map((piece) => piece.text).join("");
}
