import type { ServerResponse } from "node:http";
import type { Misplaced } from "../engine/tools";
import type { Pace } from "../pace";

/** The numbers that a fault can be told. */
export interface Numbers {
  ms?: number;
  /** Events of the stream. */
  after?: number;
  status?: number;
  /** Seconds that a status asks to wait. */
  retryAfter?: number;
}

/** What a stand-in does wrong on purpose, as it is planned. */
export interface Planned extends Numbers {
  /** Where a redirect leads. */
  to?: string;
}

/** A way to go wrong. One record, in a file of its own; what it leaves out goes well. */
export interface Fault {
  /** In a few words, as they stand behind the name of a provider. */
  says: string;
  /** The numbers that it needs, as they usually are. */
  needs: Numbers;
  /** Answers instead of the API. */
  refuse?(response: ServerResponse, planned: Planned, failure: (status: number, words: string) => object): void;
  /** Milliseconds that are waited before anything else. */
  late?(planned: Planned): number;
  /** The pace at which tokens come. */
  pace?(pace: Pace, planned: Planned): Pace;
  /** What stands in passages of documents is obeyed. */
  isGullible?: true;
  /** What goes wrong with calls of tools. */
  misplaces?: Misplaced;
  /** Nothing is said. */
  isSilent?: true;
  /** What is told of the tokens. */
  usage?: "none" | "wrong";
  /** The bytes of a text, as they are written one after the other. */
  cut?(bytes: Buffer): Buffer[];
  /** All is held back to the end. */
  isHeld?: true;
  /** The event after so many is written twice. */
  isTwice?: true;
  /** What is done to the answer after so many events; nothing more is said then. @param broken an event that is not valid */
  stop?(response: ServerResponse, broken: string): void;
  /** Whether an answer that was stopped is ended in good order. */
  endsStopped?: true;
  hasNoEnd?: true;
  isEndless?: true;
}

/** A fault with its numbers. */
export type Active = Fault & { planned: Planned };
