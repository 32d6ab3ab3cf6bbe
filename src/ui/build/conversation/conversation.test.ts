import { describe, expect, it } from "vitest";
import type { BenchLine, LineMessage } from "@/contract/conversations";
import { noCounts } from "@/core/tokens/counts";
import { underWayIn, unread, withEarlier, withEnd, withEnded, withPages } from "./conversation";

function said(turn: number, change: Partial<LineMessage> = {}): LineMessage {
  return {
    id: `msg_${turn}`,
    parent: null,
    turn,
    role: "visitor",
    pieces: [{ kind: "text", text: `Turn ${turn}` }],
    counts: noCounts,
    soFar: { counts: noCounts, messages: turn },
    at: turn,
    siblings: [],
    clearedFor: [],
    isPinned: false,
    ...change,
  } as LineMessage;
}

function arriving(id: string): LineMessage {
  return {
    ...said(9),
    id,
    role: "app",
    state: "arriving",
    reported: null,
    facts: {},
    ratings: {},
  } as unknown as LineMessage;
}

function page(messages: LineMessage[], before: string | null = null): BenchLine {
  return {
    conversation: "con_1",
    messages,
    before,
    app: "quay-desk",
    origin: "bench",
    client: null,
    clears: [],
    pinned: [],
    summaries: [],
    summarising: null,
    title: null,
    opening: "Turn 1",
    note: "",
    tags: [],
    saidAgain: null,
    price: null,
    isApart: false,
  };
}

const ids = ({ line }: { line: readonly LineMessage[] }) => line.map(({ turn }) => turn);

describe("a conversation as a tab has read it", () => {
  it("is known before it is begun, and begun once the server says so", () => {
    const fresh = unread("con_1", false);
    expect([fresh.isBegun, fresh.isRead]).toEqual([false, true]);
    expect(withEnd(fresh, page([said(1)])).isBegun).toBe(true);
  });

  it("is patched at its end, and keeps what was read above", () => {
    const read = withPages(unread("con_1", true), [page([said(3), said(4)], "p2"), page([said(1), said(2)])]);
    expect(ids(read)).toEqual([1, 2, 3, 4]);
    const after = withEnd(read, page([said(3), said(4), said(5)], "p2"));
    expect([ids(after), after.before]).toEqual([[1, 2, 3, 4, 5], null]);
  });

  it("is read anew from its end where that does not overlap with what was read", () => {
    const read = withPages(unread("con_1", true), [page([said(1), said(2)])]);
    const after = withEnd(read, page([said(7), said(8)], "p7"));
    expect([ids(after), after.before]).toEqual([[7, 8], "p7"]);
  });

  it("keeps each message the same object until it changes, and all of the line where nothing did", () => {
    const read = withPages(unread("con_1", true), [page([said(1), said(2)])]);
    const again = withPages(read, [page([said(1), said(2)])]);
    expect(again.line).toBe(read.line);
    const pinned = withPages(read, [page([said(1), said(2, { isPinned: true })])]);
    expect(pinned.line[0]).toBe(read.line[0]);
    expect(pinned.line[1]).not.toBe(read.line[1]);
  });

  it("takes a page of what is earlier once, whoever asked twice", () => {
    const read = withPages(unread("con_1", true), [page([said(3)], "p3")]);
    const once = withEarlier(read, "p3", page([said(1), said(2)]));
    expect(ids(once)).toEqual([1, 2, 3]);
    expect(withEarlier(once, "p3", page([said(1), said(2)]))).toBe(once);
  });

  it("has no reply under way that was heard to end, also before that could be read", () => {
    const read = withPages(unread("con_1", true), [page([said(1), arriving("r")])]);
    expect(underWayIn(read)?.id).toBe("r");
    expect(underWayIn(withEnded(read, "r"))).toBeUndefined();
    expect(underWayIn(withEnded(read, "other"))?.id).toBe("r");
  });
});
