import type { Problem } from "@/core/problem/problem";
import type { Candidate } from "@/core/reply/events";
import type { Content } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import type { Calibration } from "@/core/tokens/calibration";
import type { StoredApp } from "../apps/app-store";
import type { Origin } from "../conversations/conversation-store";

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

/** A summary that is wanted, with what is told of the calls that it takes. */
export interface WantedSummary extends Line {
  app: StoredApp;
  origin: Origin;
  /** The revision that carries it, and the hash of its content. */
  revision: Pick<Revision, "number" | "hash">;
}

/** How far the summary of a conversation is, where it is being made or was not made. */
export type SummaryStanding = { state: "making"; turn: number } | { state: "failed"; problem: Problem };
