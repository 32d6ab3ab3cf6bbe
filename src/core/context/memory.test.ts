import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { textOf } from "../conversation/pieces";
import { uncalibrated } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import { type Asked, assemble } from "./assemble";
import { forecast, withTyped } from "./forecast";
import { judgedRows } from "./judged";
import { numbersOf, rowsOf } from "./outline";
import type { Memory } from "./policies/policies";
import type { Reach } from "./reach";
import type { Reason } from "./reason";
import { rowOf } from "./row";
import { slipsOf } from "./slips";
import { askedFor, assembled, clearAfter, line, pinnedIn, plainContent, type Said } from "./test/line";

const withMemory = (memory: Memory, more: Partial<Asked> = {}) =>
  askedFor({ window: 100_000, content: { ...plainContent, memory }, ...more });
const turnsSaid = (turns: number): Said[] =>
  Array.from({ length: turns }, (_, at) => [`Question ${at + 1}?`, `Answer ${at + 1}.`]).flat();
const texts = (sent: ReturnType<typeof assemble>) => (sent.kind === "ready" ? sent.messages.map(textOf) : []);
const reasonsIn = (reach: Reach): Record<number, Reason["kind"]> =>
  Object.fromEntries(judgedRows(reach).map(({ row, reason }) => [row.turn, reason.kind]));
const forecastOf = (memory: Memory, said: Said[], more: { pins?: number[]; window?: number } = {}) => {
  const whole = line(...said);
  const pinned = pinnedIn(whole, more.pins ?? []).map(({ visitor, reply }) => ({
    visitor: rowOf(visitor),
    reply: rowOf(reply),
  }));
  const model = { window: more.window ?? 100_000, maxOutput: 100, calibration: uncalibrated, by: askedFor().by };
  return forecast({ ...plainContent, memory }, { rows: whole.map(rowOf), pinned }, model, 0);
};

describe("a memory of the last turns", () => {
  it("carries so many and says that the others are older", () => {
    const sent = assemble(withMemory({ kind: "last-turns", turns: 2 }), line(...turnsSaid(5), "Last?"));
    expect(texts(sent)).toEqual(["You are the desk.", "Question 4?", "Answer 4.", "Question 5?", "Answer 5.", "Last?"]);
    expect(reasonsIn(forecastOf({ kind: "last-turns", turns: 2 }, turnsSaid(5)))).toEqual({
      1: "older",
      2: "older",
      3: "older",
      4: "remembered",
      5: "remembered",
    });
  });

  it("does not count a turn that has no answer", () => {
    const said: Said[] = [...turnsSaid(2), "Lost?", ["failed", ""], "Last?"];
    const sent = assemble(withMemory({ kind: "last-turns", turns: 2 }), line(...said));
    expect(texts(sent).slice(1)).toEqual(["Question 1?", "Answer 1.", "Question 2?", "Answer 2.", "Last?"]);
  });

  it("reads no more of the line than it has to", () => {
    const whole = line(...turnsSaid(40), "Last?");
    const asked = withMemory({ kind: "last-turns", turns: 3 });
    expect(assemble(asked, whole.slice(-5))).toEqual({ kind: "short", of: "end" });
    const sent = assemble(asked, whole.slice(-9));
    expect(texts(sent)).toEqual(texts(assemble(asked, whole)));
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.ledger.entries[1]).toMatchObject({
      part: "above",
      carried: false,
      reason: { kind: "older", most: 3, of: "turns" },
    });
  });
});

describe("a memory of the last messages", () => {
  it("cuts no turn in two: one of which a part would be out is left out, and says so", () => {
    const reach = forecastOf({ kind: "last-messages", messages: 3 }, turnsSaid(3));
    expect(reasonsIn(reach)).toEqual({ 1: "older", 2: "parted", 3: "remembered" });
    expect(reasonsIn(forecastOf({ kind: "last-messages", messages: 4 }, turnsSaid(3)))).toEqual({
      1: "older",
      2: "remembered",
      3: "remembered",
    });
  });
});

describe("a memory that fits a budget", () => {
  it("carries as many of the newest turns as fit, and says by how much the next is over", () => {
    const whole = forecastOf({ kind: "fitting", tokens: 100_000 }, turnsSaid(4));
    const each = whole.remembered / 4;
    const reach = forecastOf({ kind: "fitting", tokens: Math.floor(each * 2.5) }, turnsSaid(4));
    expect(reasonsIn(reach)).toEqual({ 1: "over-budget", 2: "over-budget", 3: "remembered", 4: "remembered" });
    const over = judgedRows(reach)[2]?.reason;
    expect(over?.kind === "over-budget" && over.by).toBeCloseTo(each * 3 - Math.floor(each * 2.5), -1);
  });

  it("leaves what no window holds to the window", () => {
    const reach = forecastOf({ kind: "last-turns", turns: 10 }, turnsSaid(10), { window: 200 });
    expect(Object.values(reasonsIn(reach))).toContain("over-window");
    expect(reach.tokens + reach.margin).toBeLessThanOrEqual(100);
  });
});

describe("pins", () => {
  it("are carried under every policy, in their place, once", () => {
    const whole = line(...turnsSaid(6), "Last?");
    const pinned = pinnedIn(whole, [1, 6]);
    for (const memory of [
      { kind: "nothing" },
      { kind: "last-turns", turns: 1 },
      { kind: "fitting", tokens: 40 },
      { kind: "everything" },
    ] satisfies Memory[]) {
      const said = texts(assemble(withMemory(memory, { pinned }), whole));
      expect(said.filter((text) => text === "Question 1?" || text === "Question 6?")).toEqual([
        "Question 1?",
        "Question 6?",
      ]);
      expect(said.at(-1)).toBe("Last?");
    }
    expect(reasonsIn(forecastOf({ kind: "nothing" }, turnsSaid(3), { pins: [2] }))).toEqual({
      1: "forgotten",
      2: "pinned",
      3: "forgotten",
    });
  });

  it("above a clear are not carried", () => {
    const whole = line(...turnsSaid(4), "Last?");
    const asked = withMemory({ kind: "nothing" }, { pinned: pinnedIn(whole, [1, 3]), clears: clearAfter(whole, 2) });
    expect(texts(assemble(asked, whole))).toEqual(["You are the desk.", "Question 3?", "Answer 3.", "Last?"]);
  });
});

describe("a memory that each model has for itself", () => {
  it("carries what that model answered", () => {
    const whole = line(...turnsSaid(4), "Last?");
    for (const at of [1, 5]) {
      const reply = whole[at];
      if (reply?.role === "app") reply.facts = { ...reply.facts, model: "other" };
    }
    const asked = (model: string) =>
      withMemory({ kind: "last-turns", turns: 5, apart: true }, { by: { provider: "P", model } });
    expect(texts(assembled(asked("m"), whole)).slice(1)).toEqual([
      "Question 2?",
      "Answer 2.",
      "Question 4?",
      "Answer 4.",
      "Last?",
    ]);
    expect(texts(assembled(asked("other"), whole)).slice(1)).toEqual([
      "Question 1?",
      "Answer 1.",
      "Question 3?",
      "Answer 3.",
      "Last?",
    ]);
    expect(texts(assembled(asked("third"), whole)).slice(1)).toEqual(["Last?"]);
  });
});

describe("a clear of one model alone", () => {
  it("holds for that model where memory is apart, and for nobody where it is in common", () => {
    const whole = line(...turnsSaid(4), "Last?");
    const clears = clearAfter(whole, 2, { provider: "P", model: "m" });
    const carried = (apart: true | undefined, model: string) => {
      for (const message of whole) if (message.role === "app") message.facts = { ...message.facts, model };
      const memory = { kind: "everything", apart } as const;
      return texts(assembled(withMemory(memory, { clears, by: { provider: "P", model } }), whole)).length;
    };
    expect(carried(true, "m")).toBe(1 + 4 + 1);
    expect(carried(true, "other")).toBe(1 + 8 + 1);
    expect(carried(undefined, "m")).toBe(1 + 8 + 1);
  });
});

describe("a memory as text", () => {
  it("stands in the system prompt, and the newest message alone as one", () => {
    const sent = assemble(withMemory({ kind: "last-turns", turns: 1, as: "text" }), line(...turnsSaid(2), "Last?"));
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.messages.map(({ role }) => role)).toEqual(["system", "visitor"]);
    expect(texts(sent)[0]).toBe("You are the desk.\n\nWhat was said before:\n\nVisitor: Question 2?\n\nApp: Answer 2.");
    expect(sent.ledger.holding?.counts).toEqual(sumOf(texts(sent)));
  });
});

describe("a memory with a summary", () => {
  const memory = { kind: "summary", turns: 2 } as const;
  const text = "The visitor is Marit.";
  const summary = { id: "s", turn: 3, text, counts: countsOf(text), clear: null, by: null, leftOut: [] as string[] };
  const whole = line(...turnsSaid(6), "Last?");

  it("carries the summary in the system prompt, and in full what it does not cover", () => {
    const sent = assemble(withMemory(memory, { summaries: [summary] }), whole);
    expect(texts(sent)).toEqual([
      "You are the desk.\n\nWhat was said before that, in short:\n\nThe visitor is Marit.",
      "Question 4?",
      "Answer 4.",
      "Question 5?",
      "Answer 5.",
      "Question 6?",
      "Answer 6.",
      "Last?",
    ]);
    if (sent.kind !== "ready") return expect.unreachable();
    expect(sent.ledger.entries[1]).toMatchObject({ part: "summary", id: "s", turn: 3, carried: true });
    expect(sent.ledger.holding?.counts).toEqual(sumOf(texts(sent)));
    expect(sent.ledger.entries.filter(({ reason }) => reason.kind === "summarised")).toHaveLength(1);
  });

  it("carries as many turns as there is room for while there is no summary, and says so", () => {
    const sent = assembled(withMemory(memory), whole);
    expect(texts(sent).slice(1, 3)).toEqual(["Question 1?", "Answer 1."]);
    expect(sent.kind === "ready" && sent.ledger.entries[1]).toMatchObject({
      part: "summary",
      tokens: 0,
      carried: false,
      reason: { kind: "no-summary" },
    });
  });

  it("carries the newest summary that covers exactly what the line holds, and nothing of the newest turns", () => {
    const summaries = [5, 4, 3, 1].map((turn) => ({ ...summary, id: `s${turn}`, turn }));
    const chosen = (more: Partial<Asked>, change: Partial<Memory> = {}) => {
      const sent = assembled(withMemory({ ...memory, ...change } as Memory, { summaries, ...more }), whole);
      const entry = sent.kind === "ready" ? sent.ledger.entries.find(({ part }) => part === "summary") : undefined;
      return entry?.part === "summary" ? entry.id : undefined;
    };
    expect(chosen({})).toBe("s4");
    expect(chosen({}, { turns: 3 })).toBe("s3");
    // a turn that it covers is pinned since, or not any more
    expect(chosen({ pinned: pinnedIn(whole, [2]) })).toBe("s1");
    expect(chosen({ summaries: [{ ...summary, leftOut: ["m2"] }] })).toBe("");
    expect(chosen({ pinned: pinnedIn(whole, [6]) })).toBe("s4");
    // a line was cleared since
    expect(chosen({ clears: clearAfter(whole, 2) })).toBe("");
    expect(chosen({ clears: clearAfter(whole, 2), summaries: [{ ...summary, clear: "m3" }] })).toBe("s");
    // it covers what all models answered
    expect(chosen({}, { apart: true })).toBe("");
    expect(chosen({ summaries: [{ ...summary, by: askedFor().by }] }, { apart: true })).toBe("s");
  });

  it("lets recent turns go first where room is short, then the summary, and keeps pins", () => {
    const pinned = pinnedIn(whole, [1]);
    const summaries = [{ ...summary, leftOut: ["m0"] }];
    const carried = (window: number) => {
      const sent = assembled(withMemory(memory, { summaries, pinned, window }), whole);
      if (sent.kind !== "ready") return undefined;
      const said = texts(sent).join(" ");
      return [/Question 6/, /Marit/, /Question 1/].map((each) => each.test(said));
    };
    const steps = [...new Set(Array.from({ length: 300 }, (_, at) => JSON.stringify(carried(420 - at) ?? "refused")))];
    expect(steps.map((step) => JSON.parse(step))).toEqual([
      [true, true, true],
      [false, true, true],
      // a turn that is smaller than the summary takes the room that this leaves
      [true, false, true],
      [false, false, true],
      [false, false, false],
      "refused",
    ]);
  });
});

function sumOf(all: string[]) {
  const counts = all.map(countsOf);
  return Object.fromEntries(
    Object.keys(counts[0] ?? {}).map((name) => [
      name,
      counts.reduce((sum, each) => sum + each[name as keyof typeof each], 0),
    ]),
  );
}

describe("every memory", () => {
  const said = fc.array(
    fc.tuple(
      fc.constantFrom("complete" as const, "cut" as const, "failed" as const),
      fc.constantFrom("", "Aye.", "One, two, three and four go over the bar at 9:40.", "渡し船は九時に出ます。"),
      fc.constantFrom("m", "other"),
    ),
    { maxLength: 14 },
  );
  const common = { as: fc.constantFrom(undefined, "text" as const), apart: fc.constantFrom(undefined, true as const) };
  const within = fc.option(fc.integer({ min: 1, max: 300 }), { nil: undefined });
  const memories: fc.Arbitrary<Memory> = fc.oneof(
    fc.record({ kind: fc.constant("everything" as const), ...common }),
    fc.record({ kind: fc.constant("nothing" as const), within, ...common }),
    fc.record({ kind: fc.constant("last-turns" as const), turns: fc.integer({ min: 1, max: 6 }), within, ...common }),
    fc.record({
      kind: fc.constant("last-messages" as const),
      messages: fc.integer({ min: 1, max: 9 }),
      within,
      ...common,
    }),
    fc.record({ kind: fc.constant("fitting" as const), tokens: fc.integer({ min: 1, max: 300 }), ...common }),
    fc.record({ kind: fc.constant("summary" as const), turns: fc.integer({ min: 1, max: 6 }), within, ...common }),
  );
  // a turn that a summary covers up to, and whether it was made under these pins, that clear, for this model
  const summed = fc.record({ turn: fc.integer({ min: 1, max: 12 }), fits: fc.boolean() });
  const cases = fc.record({
    said,
    memory: memories,
    window: fc.integer({ min: 120, max: 700 }),
    clear: fc.nat(14),
    clearOf: fc.constantFrom(null, { provider: "P", model: "m" }, { provider: "P", model: "other" }),
    pins: fc.array(fc.integer({ min: 1, max: 14 }), { maxLength: 4 }),
    length: fc.integer({ min: 1, max: 40 }),
    sums: fc.array(summed, { maxLength: 4 }),
  });

  it("exceeds neither budget nor window, parts no turn, keeps the order, the prompt, the newest message and pins that fit; and the browser knows", () => {
    fc.assert(
      fc.property(cases, ({ said, memory, window, clear: after, clearOf, pins, length, sums }) => {
        const whole = line(
          ...said.flatMap(([state, text], at) => [`Question ${at + 1}?`, [state, text]] as Said[]),
          "Last?",
        );
        said.forEach(([, , model], at) => {
          const reply = whole[at * 2 + 1];
          if (reply?.role === "app") reply.facts = { ...reply.facts, model };
        });
        const content = { ...plainContent, memory, settings: { maxOutput: 40 } };
        // of all, or of a model: where memory is in common that is none
        const clears = after === 0 ? [] : clearAfter(whole, Math.min(after, said.length), clearOf);
        const isCleared = clearOf === null || (memory.apart === true && clearOf.model === "m");
        const clear = (isCleared ? clears[0] : null) ?? null;
        const pinned = pinnedIn(whole, pins);
        const fitting = {
          clear: clear?.message ?? null,
          by: memory.apart ? askedFor().by : null,
          counts: countsOf("In short."),
          text: "In short.",
        };
        const covers = (turn: number) =>
          pinned.filter(({ visitor, reply }) => {
            const isOwn = !memory.apart || (reply.role === "app" && reply.facts.model === "m");
            return isOwn && rowOf(reply).kinds.length > 0 && visitor.turn > (clear?.turn ?? 0) && visitor.turn <= turn;
          });
        const summaries = sums
          .filter(({ turn }) => turn <= said.length && turn > (clear?.turn ?? 0))
          .sort((a, b) => b.turn - a.turn)
          .map(({ turn, fits }, at) => ({
            ...fitting,
            id: `s${at}`,
            turn,
            leftOut: [...covers(turn).map(({ visitor }) => visitor.id), ...(fits ? [] : ["m99"])],
          }));
        const asked = askedFor({ content, window, clears, pinned, summaries });
        const sent = assembled(asked, whole, length);

        // the browser: what was read of the line, and its outline above that
        const before = whole.slice(0, -1);
        const outline = rowsOf({
          makers: [
            { provider: "P", model: "m" },
            { provider: "P", model: "other" },
          ],
          rows: before.map((message) => [
            message.id,
            message.role === "app" ? message.state : null,
            message.role === "app" ? (message.facts.model === "m" ? 0 : 1) : null,
            numbersOf(message.counts),
          ]),
        });
        expect(outline).toEqual(before.map(rowOf));
        const pinnedRows = pinned.map(({ visitor, reply }) => ({ visitor: rowOf(visitor), reply: rowOf(reply) }));
        const model = { window, maxOutput: 40, calibration: asked.calibration, by: asked.by };
        const atHand = { rows: outline, clears, pinned: pinnedRows, summaries };
        const seen = withTyped(forecast(content, atHand, model, 0), "Last?");

        if (sent.kind !== "ready") {
          expect(sent).toMatchObject({ kind: "refused", problem: { kind: "too-long" } });
          expect(seen.problem?.kind).toBe("too-long");
          return;
        }
        const { ledger, messages } = sent;
        expect([seen.problem, seen.tokens, seen.margin]).toEqual([undefined, ledger.tokens, ledger.margin]);
        expect(ledger.tokens + (ledger.margin ?? 0)).toBeLessThanOrEqual(window - 40);
        const budget = "within" in memory ? memory.within : memory.kind === "fitting" ? memory.tokens : undefined;
        if (budget !== undefined) expect(seen.remembered).toBeLessThanOrEqual(budget);

        expect(slipsOf(messages)).toEqual([]);
        expect(textOf(messages[0] as never).startsWith("You are the desk.")).toBe(true);
        expect(textOf(messages.at(-1) as never)).toBe("Last?");
        // of each turn all or nothing, in order
        const all = messages.map(textOf).join("\n");
        const places = said.map((_, at) => all.search(new RegExp(`Question ${at + 1}\\?`)));
        const carried = places.flatMap((place, at) => (place < 0 ? [] : [at]));
        expect(carried.map((at) => places[at])).toEqual(carried.map((at) => places[at] ?? 0).sort((a, b) => a - b));
        expect(carried.every((at) => said[at]?.[1] !== "" && at + 1 > (clear?.turn ?? 0))).toBe(true);
        const rows = judgedRows(seen);
        expect(carried).toEqual(
          rows.filter(({ row, carried }) => carried && row.role === "visitor").map(({ row }) => row.turn - 1),
        );
        for (let at = 0; at < said.length; at += 1) expect(rows[at * 2]?.carried).toBe(rows[at * 2 + 1]?.carried);
        const { summary, track } = seen;
        expect(all.includes("In short.")).toBe(summary?.carried === true);
        if (summary && memory.kind === "summary") {
          expect(sums.some(({ turn, fits }) => fits && turn === summary.turn)).toBe(true);
          expect(track.turns.slice(-memory.turns).every(({ number }) => number > summary.turn)).toBe(true);
          // what it covers is not carried as well
          for (const at of carried)
            if (at + 1 <= summary.turn) expect(pinned.some(({ visitor }) => visitor.turn === at + 1)).toBe(true);
        }
        if (memory.as !== "text") expect(messages.length).toBe(2 + carried.length * 2);
        // a pin that is out does not fit
        for (const { carried, reason } of seen.pins.values())
          if (!carried) expect(["over-budget", "over-window"]).toContain(reason.kind);
        expect(ledger.entries.reduce((sum, entry) => sum + (entry.carried ? entry.tokens : 0), 0)).toBe(ledger.tokens);
      }),
      { numRuns: 400 },
    );
  });
});
