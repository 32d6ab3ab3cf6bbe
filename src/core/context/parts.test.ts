import { afterEach, describe, expect, it } from "vitest";
import { type Piece, piecesOf, type ToolPiece, textOf } from "../conversation/pieces";
import { countsOf, countsOfPieces } from "../tokens/counts";
import { everyPlace } from "../wire/places";
import { assemble, measure } from "./assemble";
import { barOf } from "./bar";
import { sameTokens } from "./cache";
import { forecast, withTyped } from "./forecast";
import type { PartKind } from "./parts/part";
import { register } from "./parts/parts";
import { mostTokens, partOf, tokensOfPart } from "./reach";
import { rowOf } from "./row";
import { askedFor, line, plainContent } from "./test/line";

let takeBack = () => {};
afterEach(() => takeBack());

const notice = "The 9:40 is cancelled on Sunday.";

/** A part of a kind of its own: a notice at the end of the prompt. */
function withNotice(more: Partial<PartKind> = {}, text = () => notice): void {
  takeBack = register({
    kind: "notice",
    stands: "first",
    rank: null,
    reason: { kind: "remembered" },
    gather: () => ({
      holding: { counts: countsOf(text()), messages: 0 },
      mark: text(),
      count: 1,
      mayAdd: 500,
      words: text(),
    }),
    ...more,
  });
}

const { calibration, by } = askedFor();
const whole = line("One?", "Yes.", "Two?", "No.");
const model = { window: 2_000, maxOutput: 100, calibration, by };
const ahead = (content = plainContent, window = 2_000) =>
  forecast(content, { rows: whole.map(rowOf) }, { ...model, window }, 0);

describe("a part of a kind of its own", () => {
  it("is sent, and is found in ledger, bar, forecast, reservation and cache", () => {
    const before = ahead();
    withNotice();
    const after = ahead();
    const tokens = tokensOfPart(after, "notice");
    expect(tokens).toBeGreaterThan(5);
    // forecast
    expect(after.tokens).toBe(before.tokens + tokens);
    expect(withTyped(after, "Three?").tokens).toBe(withTyped(before, "Three?").tokens + tokens);
    // bar
    expect(barOf(after, model)).toContainEqual({ kind: "notice", tokens });
    expect(barOf(after, model).reduce((sum, each) => sum + each.tokens, 0)).toBe(after.tokens + 100);
    // reservation: with what gathering may add
    expect(mostTokens(after)).toBe(Math.min(mostTokens(before) + tokens + 500 + after.margin - before.margin, 1_900));
    // what is sent, and the ledger
    const sent = assemble(askedFor({ window: 2_000 }), line("Hello"));
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.messages[0]?.pieces).toEqual(piecesOf(`You are the desk.\n\n${notice}`));
    expect(sent.ledger.entries).toContainEqual({
      part: "beside",
      kind: "notice",
      tokens,
      carried: true,
      reason: { kind: "remembered" },
      count: 1,
    });
  });

  it("ends what a cache can hold where it says something else than last time", () => {
    let text = notice;
    withNotice({}, () => text);
    const sent = assemble(askedFor({ window: 2_000 }), whole.slice(0, -1));
    if (sent.kind !== "ready" || !sent.ledger.lead) return expect.unreachable();
    const same = () => {
      const next = ahead();
      return next.lead && sent.ledger.lead ? sameTokens(sent.ledger.lead, next.lead, next) : undefined;
    };
    const all = same();
    text = "The 9:40 runs.";
    expect(same()).toBe(tokensOfPart(ahead(), "prompt"));
    expect(all).toBeGreaterThan(same() ?? 0);
  });

  it("gives way by its rank: before turns where that is higher, after them where it is lower", () => {
    const long = "All boats are late today. ".repeat(12);
    const window = ahead().tokens + ahead().margin + 100 + 40;
    withNotice({ rank: 45 }, () => long);
    expect(partOf(ahead(plainContent, window), "notice")).toMatchObject({ carried: true });
    takeBack();
    const fitting = { ...plainContent, memory: { kind: "fitting", tokens: 1_000 } as const };
    withNotice({ rank: 45 }, () => long);
    const turnsFirst = ahead(fitting, window);
    expect(partOf(turnsFirst, "notice")).toMatchObject({ carried: false, reason: { kind: "over-window" } });
    expect(turnsFirst.turns.turns).toBe(2);
    takeBack();
    const needed = tokensOfPart(ahead(), "prompt") + countsOf(long).words;
    withNotice({ rank: 5 }, () => long);
    const noticeFirst = ahead(fitting, window + needed / 4);
    expect(partOf(noticeFirst, "notice")?.carried === true ? noticeFirst.turns.turns < 2 : true).toBe(true);
  });
});

describe("tools in a context", () => {
  const content = {
    ...plainContent,
    tools: [
      {
        name: "fares",
        description: "What a crossing costs.",
        parameters: { type: "object" },
        answer: { by: "text", text: "4.00" } as const,
      },
    ],
  };
  const asked: ToolPiece = {
    kind: "tool",
    round: 1,
    call: "c1",
    name: "fares",
    arguments: { to: "Brindle" },
    outcome: "answered",
    result: "4.00 EUR",
  };
  const exchange = { pieces: [...piecesOf("I look. "), asked] as Piece[], carry: [{ round: 1, value: "seal" }] };

  it("are a part, as a model is told of them: their answers are nobody's business", () => {
    expect(tokensOfPart(ahead(content), "tools")).toBeGreaterThan(10);
    const sent = assemble(askedFor({ content, window: 2_000 }), line("Hello"));
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.ledger.entries[0]).toMatchObject({ part: "beside", kind: "tools", count: 1, carried: true });
    expect(JSON.stringify(sent.messages)).not.toContain("4.00");
  });

  it("of the rounds that went through go along with the next one, and are accounted for", () => {
    const first = assemble(askedFor({ content, window: 2_000 }), line("What does it cost?"));
    const next = assemble(askedFor({ content, window: 2_000, exchange }), line("What does it cost?"));
    if (first.kind !== "ready" || next.kind !== "ready") return expect.unreachable();
    expect(next.messages.at(-1)).toEqual({ role: "app", pieces: exchange.pieces, carry: exchange.carry });
    const entry = next.ledger.entries.at(-1);
    expect(entry).toMatchObject({ part: "beside", kind: "exchange", carried: true, count: 1 });
    expect(next.ledger.tokens).toBe(first.ledger.tokens + (entry?.tokens ?? 0));
    expect(next.ledger.holding?.counts.calls).toBe(countsOfPieces(exchange.pieces).calls);
  });

  it("are told in words where turns are carried as text", () => {
    const text = { ...plainContent, memory: { kind: "everything", as: "text" } as const };
    const before = line("What does it cost?", "4.00 EUR.", "And back?").map((message) =>
      message.role === "app" ? { ...message, pieces: exchange.pieces } : message,
    );
    const sent = assemble(askedFor({ content: text, window: 2_000 }), before);
    if (sent.kind !== "ready") return expect.unreachable();
    expect(textOf(sent.messages[0] ?? { pieces: [] })).toContain('App: I look. [fares {"to":"Brindle"}: 4.00 EUR]');
  });

  it("of a reply that is gone on from are one message with what comes", () => {
    const begun = line("What does it cost?", ["interrupted", "Let me see. "]);
    const next = assemble(askedFor({ content, window: 2_000, exchange }), begun);
    if (next.kind !== "ready") return expect.unreachable();
    expect(next.messages.at(-1)).toMatchObject({ role: "app", pieces: [{ text: "Let me see. I look. " }, asked] });
  });

  it("and pictures that an API has no place for are refused by name, or left out and said to be", () => {
    const picture: Piece = { kind: "picture", file: "f", type: "image/png", width: 600, height: 600 };
    const seen = line("What is it?").map((message) => {
      const pieces: Piece[] = [picture, ...message.pieces];
      return { ...message, pieces, counts: countsOfPieces(pieces) };
    });
    const places = { ...everyPlace, picture: "refused", tool: "refused", offersTools: false } as const;
    expect(measure(askedFor({ places }), seen.map(rowOf))).toMatchObject({
      kind: "refused",
      problem: { kind: "no-place", detail: expect.stringContaining("no place for pictures") },
    });
    const blind = { ...everyPlace, picture: "unseen" } as const;
    const seeing = () => ["reed-deep on Reedbed", "tide-wide on Tidegate"];
    expect(measure(askedFor({ places: blind, seeing }), seen.map(rowOf))).toMatchObject({
      problem: {
        kind: "no-place",
        detail: expect.stringContaining("sees no pictures"),
        advice: expect.stringContaining("reed-deep on Reedbed or tide-wide on Tidegate"),
      },
    });
    expect(measure(askedFor({ places: blind, seeing }), line("Hello").map(rowOf)).kind).toBe("ready");
    expect(measure(askedFor({ content, places }), line("Hello").map(rowOf))).toMatchObject({
      problem: { detail: expect.stringContaining("no place for tools") },
    });
    expect(measure(askedFor({ exchange, places }), line("Hello").map(rowOf))).toMatchObject({
      problem: { detail: expect.stringContaining("no place for calls of tools") },
    });
    const counted = { ...everyPlace, pictureTokens: { each: 85, tile: 170, kilopixel: 0 } };
    const [withPicture, plainReach] = [seen, line("What is it?")].map((rows) => {
      const measured = measure(askedFor({ places: counted }), rows.map(rowOf));
      return measured.kind === "ready" ? measured.reach : expect.unreachable();
    });
    // 600 by 600 pixels are four tiles
    expect((withPicture?.tokens ?? 0) - (plainReach?.tokens ?? 0)).toBe(85 + 4 * 170);
    const left = assemble(askedFor({ places: { ...places, picture: "left-out" } }), seen);
    const plain = assemble(askedFor(), line("What is it?"));
    if (left.kind !== "ready" || plain.kind !== "ready") return expect.unreachable();
    expect([left.ledger.tokens, left.ledger.margin]).toEqual([plain.ledger.tokens, plain.ledger.margin]);
    expect(left.ledger.holding).toEqual(plain.ledger.holding);
    expect(left.ledger.entries.at(-1)).toMatchObject({
      kind: "pictures",
      count: 1,
      carried: false,
      reason: { kind: "no-place" },
    });
  });
});
