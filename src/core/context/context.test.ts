import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { piecesOf } from "../conversation/pieces";
import { turnsOf } from "../conversation/turns";
import type { ReplyState } from "../reply/reply";
import { uncalibrated } from "../tokens/calibration";
import { type Asked, assemble, measure } from "./assemble";
import type { Clear } from "./clear";
import type { Ledger, LedgerEntry } from "./ledger";
import { everything } from "./policies/everything";
import { policies } from "./policies/policies";
import type { Policy } from "./policies/policy";
import { type Room, reach, rowOf } from "./reach";
import { slipsOf } from "./slips";
import { line, plainContent, type Said } from "./test-line";

const room: Room = { window: 1000, maxOutput: 100, calibration: uncalibrated };
const nothingElse = { prompt: null, message: null };
const reachOf = (...said: Said[]) => reach(line(...said).map(rowOf), nothingElse, { kind: "everything" }, room);
const carriedIds = (...said: Said[]) =>
  reachOf(...said)
    .rows.filter(({ carried }) => carried)
    .map(({ row }) => row.id);

const asked = (more: Partial<Asked> = {}): Asked => ({
  content: plainContent,
  variables: {},
  window: 1000,
  calibration: uncalibrated,
  now: 0,
  ...more,
});

/** Replies of every kind, with words and without. */
const replies = fc.array(
  fc.tuple(
    fc.constantFrom<ReplyState>("complete", "cut", "stopped", "failed", "interrupted", "refused"),
    fc.constantFrom("", "words", "  ", "One, two, three and four."),
  ),
  { maxLength: 8 },
);

describe("the reach when everything is remembered", () => {
  it("is the whole line", () => {
    expect(carriedIds("I'm on the 9:40", "Noted.", "Which boat?")).toEqual(["m0", "m1", "m2"]);
  });

  it.each(["failed", "interrupted", "stopped", "refused"] as const)(
    "leaves out a turn whose reply %s without a word",
    (state) => {
      const said: Said[] = ["One?", "Yes.", "Two?", [state, " "], "Three?"];
      expect(carriedIds(...said)).toEqual(["m0", "m1", "m4"]);
      expect(reachOf(...said).rows[2]?.reason).toEqual({ kind: "unanswered" });
      expect(reachOf(...said).earlier).toMatchObject({ messages: 2, turns: 1 });
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
        const sent = assemble(asked(), line(...each.flatMap((reply) => ["Hm?", reply] as Said[]), "Last?"));
        expect(sent.kind).toBe("ready");
        if (sent.kind === "ready") expect(slipsOf(sent.messages)).toEqual([]);
      }),
    );
  });

  it("is one sum, to the token, whatever the model and wherever the page begins", () => {
    fc.assert(
      fc.property(replies, fc.nat(8), fc.double({ min: 0.1, max: 10, noNaN: true }), (each, cut, ratio) => {
        const rows = line(...each.flatMap((reply) => ["And to Brindle?", reply] as Said[]), "Last?").map(rowOf);
        const its = { ...room, calibration: { ratio, calls: 1 } };
        const whole = reach(rows, nothingElse, { kind: "everything" }, its);
        const sum = whole.rows.reduce((tokens, row) => tokens + (row.carried ? row.tokens : 0), 0);
        expect(sum).toBe(whole.tokens);
        const page = reach(rows.slice(Math.min(cut, each.length) * 2), nothingElse, { kind: "everything" }, its);
        expect({ ...page, rows: [], above: null }).toEqual({ ...whole, rows: [], above: null });
        const atHand = page.rows.reduce((tokens, row) => tokens + (row.carried ? row.tokens : 0), 0);
        expect(page.above.tokens + atHand).toBe(whole.tokens);
      }),
    );
  });
});

describe("a policy that keeps some turns", () => {
  const { everything: before } = policies;
  const askedFor: number[] = [];
  const two: Policy = {
    schema: everything.schema,
    keeps: (_memory, { back }) => {
      askedFor.push(back);
      return back <= 2;
    },
  };
  const said: Said[] = ["1?", "a", "2?", "b", "3?", ["failed", ""], "4?", "d", "5?", "e", "6?"];

  beforeAll(() => void Object.assign(policies, { everything: two }));
  afterAll(() => void Object.assign(policies, { everything: before }));

  it("is asked from the newest upwards, and no further than it needs", () => {
    const reached = reachOf(...said);
    expect(askedFor).toEqual([1, 2, 3]);
    const carried = reached.rows.filter(({ carried }) => carried).map(({ row }) => row.id);
    expect(carried).toEqual(["m6", "m7", "m8", "m9", "m10"]);
    expect(reached.rows[0]?.reason).toEqual({ kind: "not-remembered" });
    expect(reached.earlier).toMatchObject({ messages: 4, turns: 2 });
    expect(reached.earlier.tokens).toBe(reached.rows.slice(6, 10).reduce((sum, { tokens }) => sum + tokens, 0));
  });

  it("wants more of the line until it has what it keeps", () => {
    const whole = assemble(asked(), line(...said));
    expect(assemble(asked(), line(...said).slice(-3))).toEqual({ kind: "short", of: "end" });
    const sent = assemble(asked(), line(...said).slice(-9));
    if (sent.kind !== "ready" || whole.kind !== "ready") return expect.unreachable();
    expect(sent.messages).toEqual(whole.messages);
    expect(sent.ledger.entries[1]).toMatchObject({ part: "above", turns: [1, 1], count: 2, carried: false });
    const sum = (entries: LedgerEntry[]) => entries.reduce((tokens, entry) => tokens + entry.tokens, 0);
    expect(sum(sent.ledger.entries)).toBe(sum(whole.ledger.entries));
  });
});

describe("a clear", () => {
  const said = (each: readonly [ReplyState, string][]) =>
    each.flatMap((reply, at) => [`${at} to Brindle?`, reply] as Said[]);
  /** The clear after a turn of a line. */
  const clearAfter = (rows: ReturnType<typeof line>, turn: number): Clear | null => {
    const end = rows[turn * 2 - 1];
    return end ? { message: end.id, turn, soFar: end.soFar } : null;
  };

  it("carries what a line would that begins after it, wherever the page begins, and accounts for the rest", () => {
    fc.assert(
      fc.property(replies, fc.nat(8), fc.nat(8), (each, after, cut) => {
        const turn = Math.min(after, each.length);
        const whole = line(...said(each), "Last?");
        const clear = clearAfter(whole, turn);
        const ask = asked({ window: 100_000, clear });
        const bare = assemble(asked({ window: 100_000 }), line(...said(each).slice(turn * 2), "Last?"));
        const at = Math.min(cut, each.length) * 2;
        const above = whole.slice(0, at).map(({ role, pieces }) => ({ role, pieces, carry: undefined }));
        const first = assemble(ask, whole.slice(at));
        const sent = first.kind === "short" ? assemble(ask, whole.slice(at), above) : first;
        if (sent.kind !== "ready" || bare.kind !== "ready") return expect(above.length).toBe(0);
        expect(sent.messages.map(({ role, pieces }) => ({ role, pieces }))).toEqual(
          bare.messages.map(({ role, pieces }) => ({ role, pieces })),
        );
        expect(sent.ledger.rawTokens).toBe(bare.ledger.rawTokens);
        const carried = sent.ledger.entries.filter((entry) => entry.carried);
        expect(carried.reduce((sum, { tokens }) => sum + tokens, 0)).toBe(sent.ledger.tokens);
        const cleared = sent.ledger.entries.filter(({ reason }) => reason.kind === "cleared");
        expect(cleared.every((entry) => !entry.carried && entry.part !== "prompt" && entry.turns[1] <= turn)).toBe(
          true,
        );
      }),
    );
  });

  it("comes by the newest message alone to the same", () => {
    const whole = line("One?", "Yes.", "Two?", "No.", "Three?");
    const clear = clearAfter(whole, 1);
    const newest = whole.at(-1);
    const measured = newest && measure(asked({ clear }), [rowOf(newest)]);
    const sent = assemble(asked({ clear }), whole);
    if (measured?.kind !== "ready" || sent.kind !== "ready") return expect.unreachable();
    expect(measured.reach.tokens).toBe(sent.ledger.tokens);
    expect(sent.messages.map(({ pieces }) => pieces[0]?.text).slice(1)).toEqual(["Two?", "No.", "Three?"]);
  });
});

describe("measuring a context", () => {
  it("comes by the newest message alone to what assembling all of it comes to", () => {
    const said = line("One?", "Yes.", "Two?", ["failed", ""], "Three?", "No.", "Four?");
    const newest = said.at(-1);
    const measured = newest && measure(asked(), [rowOf(newest)]);
    const sent = assemble(asked(), said);
    if (measured?.kind !== "ready" || sent.kind !== "ready") return expect.unreachable();
    expect(measured.reach.tokens).toBe(sent.ledger.tokens);
    expect(measured.reach.rawTokens).toBe(sent.ledger.rawTokens);
  });
});

describe("assembling a context", () => {
  it("puts the filled prompt first and accounts for every part", () => {
    const content = { ...plainContent, prompt: "At {{desk}}." };
    const sent = assemble(asked({ content, variables: { desk: "Mill Quay" } }), line("Hello"));
    expect(sent).toMatchObject({
      kind: "ready",
      messages: [
        { role: "system", pieces: piecesOf("At Mill Quay.") },
        { role: "visitor", pieces: piecesOf("Hello") },
      ],
      ledger: {
        entries: [
          { part: "prompt", carried: true },
          { part: "messages", first: "m0", last: "m0", count: 1, tokens: 5, reason: { kind: "newest" } },
        ],
        window: 1000,
      },
    });
  });

  it("sends no system message for an empty prompt", () => {
    const sent = assemble(asked({ content: { ...plainContent, prompt: "  " } }), line("Hello"));
    expect(sent).toMatchObject({ kind: "ready", messages: [{ role: "visitor", pieces: piecesOf("Hello") }] });
  });

  it("puts the estimate right by what was learned of the model", () => {
    const plain = assemble(asked(), line("Hello"));
    const twice = assemble(asked({ calibration: { ratio: 2, calls: 3 } }), line("Hello"));
    if (plain.kind !== "ready" || twice.kind !== "ready") return expect.unreachable();
    expect(twice.ledger.tokens).toBe(plain.ledger.tokens * 2);
    expect(twice.ledger.rawTokens).toBe(plain.ledger.rawTokens);
  });

  it("is the same, wherever the end begins that it has more than the words of", () => {
    fc.assert(
      fc.property(replies, fc.nat(16), (each, cut) => {
        const said = line(...each.flatMap((reply) => ["And to Brindle?", reply] as Said[]), "Last?");
        for (const message of said) if (message.role === "app") message.facts.carry = { of: message.id };
        const whole = assemble(asked({ provider: "P" }), said);
        // in the middle of a turn, too
        const at = Math.min(cut, said.length - 1);
        const above = said.slice(0, at).map(({ role, pieces, id }) => ({
          role,
          pieces,
          carry: role === "app" ? { provider: "P", value: { of: id } } : undefined,
        }));
        if (at > 0) expect(assemble(asked(), said.slice(at))).toEqual({ kind: "short", of: "above" });
        const parts = assemble(asked({ provider: "P" }), said.slice(at), above);
        if (whole.kind !== "ready" || parts.kind !== "ready") return expect.unreachable();
        expect(parts.messages).toEqual(whole.messages);
        const outAndIn = ({ entries }: Ledger) =>
          [true, false].map((carried) =>
            entries.reduce((sum, entry) => sum + (entry.carried === carried ? entry.tokens : 0), 0),
          );
        expect(outAndIn(parts.ledger)).toEqual(outAndIn(whole.ledger));
        expect({ ...parts.ledger, entries: [] }).toEqual({ ...whole.ledger, entries: [] });
      }),
    );
  });

  it("accounts for a long line without a line for each message of long ago", () => {
    const said = line(...Array.from({ length: 1_000 }, () => ["And?", "Aye."]).flat(), "Last?");
    const sent = assemble(asked({ window: 100_000 }), said);
    if (sent.kind !== "ready") return expect.unreachable();
    const { entries, tokens } = sent.ledger;
    expect(entries.length).toBeLessThan(70);
    expect(entries[1]).toMatchObject({ first: "m0", turns: [1, 971], count: 1_941 });
    expect(entries.reduce((sum, entry) => sum + entry.tokens, 0)).toBe(tokens);
  });

  it("gives back to a provider what it gave along, and to no other", () => {
    const said = line("Hello", "Aye.", "And?");
    const reply = said[1];
    if (reply?.role === "app") reply.facts = { ...reply.facts, carry: { token: 1 } };
    const own = assemble(asked({ provider: "P" }), said);
    const other = assemble(asked({ provider: "Q" }), said);
    if (own.kind !== "ready" || other.kind !== "ready") return expect.unreachable();
    expect([own.messages[2]?.carry, other.messages[2]?.carry]).toEqual([{ token: 1 }, undefined]);
  });

  it("refuses a variable that nothing gives a value", () => {
    const sent = assemble(asked({ content: { ...plainContent, prompt: "At {{desk}}." } }), line("Hello"));
    expect(sent).toMatchObject({
      kind: "refused",
      problem: { kind: "bad-request", detail: expect.stringContaining("{{desk}}") },
    });
  });

  it("refuses more than the window holds beside the reply, and says how much too much", () => {
    expect(assemble(asked({ window: 110 }), line("Hello"))).toMatchObject({
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
      { at: 0, reason: "the first message is not the visitor's" },
      { at: 1, reason: "the message is empty" },
      { at: 2, reason: "two messages of the visitor stand in a row" },
      { at: 3, reason: "the system prompt does not stand first" },
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
