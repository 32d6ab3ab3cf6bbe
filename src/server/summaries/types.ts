import type { Problem } from "@/core/problem/problem";
import type { Candidate } from "@/core/reply/events";
import type { Content } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import type { Calibration } from "@/core/tokens/calibration";
import type { StoredApp } from "../apps/app-store";
import type { Origin } from "../conversations/conversation-store";

/** Older turns that may be left uncovered, carried in full, until there are so many: one call then covers all of them. */
export const batch = 4;

/** A line of which older turns may be due to be summed up. */
export interface Line {
  conversation: string;
  /** The reply that it ends with. */
  end: string;
  /** How the app behaves that carries it. */
  content: Content;
  /** Who answers, whose turns alone are summed up where memory is apart; with the room that it has. */
  by: Candidate;
  window: number;
  calibration: Calibration;
}

/** The same, with what is told of the calls that it takes. */
export interface WantedSummary extends Line {
  app: StoredApp;
  origin: Origin;
  /** The revision that carries it, and the hash of its content. */
  revision: Pick<Revision, "number" | "hash">;
}

/** How far the summary of a conversation is, where it is being made or was not made. */
export type SummaryStanding = { state: "making"; turn: number } | { state: "failed"; problem: Problem };

/** Has the older turns of lines summed up, after the replies that make them older: nobody waits for it. */
export interface Summariser {
  /** Has what is older of a line summed up where enough of it is not yet; comes back at once. */
  want(wanted: WantedSummary): void;
  /**
   * Has all that is older of a line summed up anew; comes back at once.
   * @throws {Refusal} `conflict` where there is nothing to sum up, or it is being done
   */
  wantAnew(wanted: WantedSummary): void;
  /** Null where nothing is made, and nothing failed last. */
  standing(conversation: string): SummaryStanding | null;
  /** Has what is being made on from a summary made over: its words were put right. */
  corrected(summary: { id: string; conversation: string }): void;
  /** Ends what is made of a conversation; resolves when the provider's connection is closed. */
  stop(conversation: string): Promise<void>;
  /** The same for all conversations of an app. */
  stopOf(app: string): Promise<void>;
  /** Ends all of it in good order. */
  leave(): Promise<void>;
  /** Writes nothing from here on. */
  close(): void;
}
