import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { piecesOf, textOf } from "../conversation/pieces";
import { turnsOf } from "../conversation/turns";
import type { ReplyState } from "../reply/reply";
import { assemble, measure } from "./assemble";
import { judgedRows } from "./judged";
import type { Ledger } from "./ledger";
import { reachOf } from "./reach";
import { rowOf } from "./row";
import { slipsOf } from "./slips";
import { askedFor, assembled, clearAfter, line, plainContent, type Said } from "./test/line";
import { trackOf } from "./track";

const everything = { kind: "everything" } as const;
const { calibration, by } = askedFor();
const reach = (...said: Said[]) =>
  reachOf(trackOf({ rows: line(...said).map(rowOf) }, everything, calibration, by), [], {
    window: 1000,
    maxOutput: 100,
  });
const carriedIds = (...said: Said[]) =>
  judgedRows(reach(...said))
    .filter(({ carried }) => carried)
    .map(({ row }) => row.id);

/** Replies of every kind, with words and without. */
const replies = fc.array(
  fc.tuple(
    fc.constantFrom<ReplyState>("complete", "cut", "stopped", "failed", "interrupted", "refused"),
    fc.constantFrom("", "words", "  ", "One, two, three and four."),
  ),
  { maxLength: 8 },
);
const carriedTokens = ({ entries }: Ledger) =>
  entries.reduce((sum, entry) => sum + (entry.carried ? entry.tokens : 0), 0);

describe("the reach when everything is remembered", () => {
  it("is the whole line", () => {
    expect(carriedIds("I'm on the 9:40", "Noted.", "Which boat?")).toEqual(["m0", "m1", "m2"]);
  });

  it.each(["failed", "interrupted", "stopped", "refused"] as const)(
    "leaves out a turn whose reply %s without a word",
    (state) => {
      const said: Said[] = ["One?", "Yes.", "Two?", [state, " "], "Three?"];
      expect(carriedIds(...said)).toEqual(["m0", "m1", "m4"]);
      expect(judgedRows(reach(...said))[2]?.reason).toEqual({ kind: "unanswered" });
      expect(reach(...said).turns).toMatchObject({ messages: 2, turns: 1 });
    },
  );

  it("carries what came of a reply that broke off", () => {
    expect(carriedIds("One?", ["failed", "It is"], "Two?")).toEqual(["m0", "m1", "m2"]);
  });

  it("counts a reply that is still arriving as carried next time", () => {
    expect(carriedIds("One?", ["waiting", ""])).toEqual(["m0", "m1"]);
  });

  it("never has two messages of one role in a row, whatever failed before", () => {
    fc.assert(
      fc.property(replies, (each) => {
        const sent = assemble(askedFor(), line(...each.flatMap((reply) => ["Hm?", reply] as Said[]), "Last?"));
        expect(sent.kind).toBe("ready");
        if (sent.kind === "ready") expect(slipsOf(sent.messages)).toEqual([]);
      }),
    );
  });

  it("is one sum, to the token, whatever the model and wherever the page begins", () => {
    fc.assert(
      fc.property(replies, fc.nat(8), fc.double({ min: 0.1, max: 10, noNaN: true }), (each, cut, factor) => {
        const rows = line(...each.flatMap((reply) => ["And to Brindle?", reply] as Said[]), "Last?").map(rowOf);
        const weights = Object.fromEntries(
          Object.entries(calibration.weights).map(([name, weight]) => [name, weight * factor]),
        ) as typeof calibration.weights;
        const its = (part: typeof rows) =>
          reachOf(trackOf({ rows: part }, everything, { ...calibration, weights }, by), [], { window: 100_000 });
        const whole = its(rows);
        const sumOf = (of: typeof whole) =>
          judgedRows(of).reduce((tokens, row) => tokens + (row.carried ? row.tokens : 0), 0);
        expect(sumOf(whole)).toBe(whole.tokens);
        const page = its(rows.slice(Math.min(cut, each.length) * 2));
        expect([page.tokens, page.turns]).toEqual([whole.tokens, whole.turns]);
        expect(page.above.tokens + sumOf(page)).toBe(whole.tokens);
      }),
    );
  });
});

describe("a clear", () => {
  const said = (each: readonly [ReplyState, string][]) =>
    each.flatMap((reply, at) => [`${at} to Brindle?`, reply] as Said[]);

  it("carries what a line would that begins after it, however it is read, and accounts for the rest", () => {
    fc.assert(
      fc.property(replies, fc.nat(8), fc.integer({ min: 1, max: 16 }), (each, after, length) => {
        const turn = Math.min(after, each.length);
        const whole = line(...said(each), "Last?");
        const asked = askedFor({ window: 100_000, clears: clearAfter(whole, turn) });
        const alone = assemble(askedFor({ window: 100_000 }), line(...said(each).slice(turn * 2), "Last?"));
        const sent = assembled(asked, whole, length);
        if (sent.kind !== "ready" || alone.kind !== "ready") return expect.unreachable();
        expect(sent.messages).toEqual(alone.messages);
        expect(sent.ledger.holding).toEqual(alone.ledger.holding);
        expect(carriedTokens(sent.ledger)).toBe(sent.ledger.tokens);
        const cleared = sent.ledger.entries.filter(({ reason }) => reason.kind === "cleared");
        expect(cleared.every((entry) => !entry.carried && "turns" in entry && entry.turns[1] <= turn)).toBe(true);
      }),
    );
  });

  it("comes by the newest message alone to the same", () => {
    const whole = line("One?", "Yes.", "Two?", "No.", "Three?");
    const clears = clearAfter(whole, 1);
    const newest = whole.at(-1);
    const measured = newest && measure(askedFor({ clears }), [rowOf(newest)]);
    const sent = assemble(askedFor({ clears }), whole);
    if (measured?.kind !== "ready" || sent.kind !== "ready") return expect.unreachable();
    expect(measured.reach.tokens).toBe(sent.ledger.tokens);
    expect(sent.messages.map(({ pieces }) => textOf({ pieces })).slice(1)).toEqual(["Two?", "No.", "Three?"]);
  });
});

describe("measuring a context", () => {
  it("comes by the newest message alone to what assembling all of it comes to", () => {
    const said = line("One?", "Yes.", "Two?", ["failed", ""], "Three?", "No.", "Four?");
    const newest = said.at(-1);
    const measured = newest && measure(askedFor(), [rowOf(newest)]);
    const sent = assemble(askedFor(), said);
    if (measured?.kind !== "ready" || sent.kind !== "ready") return expect.unreachable();
    expect(measured.reach.tokens).toBe(sent.ledger.tokens);
    expect(measured.reach.holding).toEqual(sent.ledger.holding);
  });
});

describe("assembling a context", () => {
  it("puts the filled prompt first and accounts for every part", () => {
    const content = { ...plainContent, prompt: "At {{desk}}." };
    const sent = assemble(askedFor({ content, variables: { desk: "Mill Quay" } }), line("Hello"));
    expect(sent).toMatchObject({
      kind: "ready",
      messages: [
        { role: "system", pieces: piecesOf("At Mill Quay.") },
        { role: "visitor", pieces: piecesOf("Hello") },
      ],
      ledger: {
        entries: [
          { part: "beside", kind: "prompt", carried: true },
          { part: "messages", first: "m0", last: "m0", count: 1, tokens: 5, reason: { kind: "newest" } },
        ],
        window: 1000,
      },
    });
  });

  it("sends no system message for an empty prompt", () => {
    const sent = assemble(askedFor({ content: { ...plainContent, prompt: "  " } }), line("Hello"));
    expect(sent).toMatchObject({ kind: "ready", messages: [{ role: "visitor", pieces: piecesOf("Hello") }] });
  });

  it("puts the opening before the conversation, and counts it", () => {
    const opening = [{ visitor: "Who are you?", app: "The desk." }];
    const sent = assemble(askedFor({ content: { ...plainContent, opening } }), line("Hello"));
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.messages.map(({ role, pieces }) => [role, textOf({ pieces })])).toEqual([
      ["system", "You are the desk."],
      ["visitor", "Who are you?"],
      ["app", "The desk."],
      ["visitor", "Hello"],
    ]);
    expect(sent.ledger.entries[1]).toMatchObject({ part: "beside", kind: "opening", count: 2, carried: true });
    expect(carriedTokens(sent.ledger)).toBe(sent.ledger.tokens);
  });

  it("is the same, however much of the line is read first", () => {
    fc.assert(
      fc.property(replies, fc.integer({ min: 1, max: 17 }), (each, length) => {
        const said = line(...each.flatMap((reply) => ["And to Brindle?", reply] as Said[]), "Last?");
        for (const message of said) if (message.role === "app") message.facts.carry = [{ round: 1, value: message.id }];
        const whole = assemble(askedFor(), said);
        const parts = assembled(askedFor(), said, length);
        if (whole.kind !== "ready" || parts.kind !== "ready") return expect.unreachable();
        expect(parts.messages).toEqual(whole.messages);
        expect(carriedTokens(parts.ledger)).toBe(carriedTokens(whole.ledger));
        expect({ ...parts.ledger, entries: [] }).toEqual({ ...whole.ledger, entries: [] });
      }),
    );
  });

  it("accounts for a long line without a line for each message of long ago", () => {
    const said = line(...Array.from({ length: 1_000 }, () => ["And?", "Aye."]).flat(), "Last?");
    const sent = assemble(askedFor({ window: 100_000 }), said);
    if (sent.kind !== "ready") return expect.unreachable();
    const { entries, tokens } = sent.ledger;
    expect(entries.length).toBeLessThan(70);
    expect(entries[1]).toMatchObject({ first: "m0", turns: [1, 971], count: 1_941 });
    expect(entries.reduce((sum, entry) => sum + entry.tokens, 0)).toBe(tokens);
  });

  it("gives back to a provider what it gave along, and to no other", () => {
    const said = line("Hello", "Aye.", "And?");
    const reply = said[1];
    if (reply?.role === "app") reply.facts = { ...reply.facts, carry: [{ round: 1, value: 1 }] };
    const own = assemble(askedFor(), said);
    const other = assemble(askedFor({ by: { provider: "Q", model: "m" } }), said);
    if (own.kind !== "ready" || other.kind !== "ready") return expect.unreachable();
    expect([own.messages[2]?.carry, other.messages[2]?.carry]).toEqual([[{ round: 1, value: 1 }], undefined]);
  });

  it("refuses a variable that nothing gives a value", () => {
    const sent = assemble(askedFor({ content: { ...plainContent, prompt: "At {{desk}}." } }), line("Hello"));
    expect(sent).toMatchObject({
      kind: "refused",
      problem: { kind: "bad-request", detail: expect.stringContaining("{{desk}}") },
    });
  });

  it("refuses more than the window holds beside the reply, and says how much too much", () => {
    expect(assemble(askedFor({ window: 110 }), line("Hello"))).toMatchObject({
      kind: "refused",
      problem: { kind: "too-long", detail: expect.stringMatching(/: \d+ too many/) },
    });
  });
});

describe("slips", () => {
  it("are named with the message that has them", () => {
    expect(
      slipsOf([
        { role: "app", pieces: piecesOf("Hello") },
        { role: "visitor", pieces: [] },
        { role: "visitor", pieces: piecesOf("Well?") },
        { role: "system", pieces: piecesOf("x") },
      ]),
    ).toEqual([
      { at: 0, kind: "app-first", role: "app" },
      { at: 1, kind: "empty", role: "visitor" },
      { at: 2, kind: "twice-in-a-row", role: "visitor" },
      { at: 3, kind: "late-prompt", role: "system" },
    ]);
  });
});

describe("turns", () => {
  it("pair a visitor's message with the reply to it", () => {
    expect(turnsOf(line("One?", "Yes.", "Two?")).map(({ number, reply }) => [number, reply?.id])).toEqual([
      [1, "m1"],
      [2, undefined],
    ]);
  });
});
