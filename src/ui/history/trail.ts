import { type PackedConversation, tokensOn } from "./strip-turns";

/** Where a page of the list begins. */
export interface Place {
  /** The conversation that it comes after, as the page before it tells it; undefined at the top. */
  before: string | undefined;
  /** Conversations above it. */
  above: number;
  /** Tokens on the longest strip of the first page, so that strips keep their length while one scrolls. */
  longest: number | undefined;
}
/** The places of a page and of those above it, in order. */
export type Trail = readonly [...Place[], Place];

/** Some of the conversations, in order, and what the page after it comes after; null with the last. */
export interface Page {
  conversations: PackedConversation[];
  before: string | null;
}

/** The trail of the first page. */
export const top: Trail = [{ before: undefined, above: 0, longest: undefined }];

/** The trail of the page after one; undefined after the last. */
export function afterPage({ before, conversations }: Page, trail: Trail): Trail | undefined {
  if (before === null) return undefined;
  const { above, longest = longestOf(conversations) } = placeOf(trail);
  return [...trail, { before, above: above + conversations.length, longest }];
}

/** The trail of the page above one; undefined for the first. */
export function pageAbove(trail: Trail): Trail | undefined {
  return trail.length > 1 ? (trail.slice(0, -1) as [Place]) : undefined;
}

/** The trail of the page that a row stands on, of those passed already. */
export function trailTo(trail: Trail, at: number): Trail {
  const passed = trail.filter(({ above }) => above <= at);
  return passed.length > 0 ? (passed as [Place]) : top;
}

/** Where the page of a trail begins. */
export function placeOf(trail: Trail): Place {
  return trail.at(-1) as Place;
}

/** Tokens on the longest strip of some. */
export function longestOf(conversations: readonly PackedConversation[]): number {
  return Math.max(1, ...conversations.map(({ strip }) => tokensOn(strip)));
}
