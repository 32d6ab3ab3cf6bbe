import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { expectationForms, readExpectation, writeExpectation } from "./expectations/expectations";
import { parseScript, printCheck, printScript } from "./parse";
import type { Saying } from "./script";
import { badScripts } from "./test/bad-scripts";

const boat = `# what people ask most
check  remembers the boat
passes in 4 of 5 trials
given  today is 2025-06-01
visitor  I'm on the 9:40 with two bicycles.
after  2 turns from small-talk
visitor  Which boat am I on?
    states 9:40
    states no other time
    turn 1 was sent
visitor  And what do the bicycles cost?
    | For both of them.
    states €4.00
    at most 2 sentences
    first text within 2 s
whole
    has no list

turns  small-talk
visitor  Good morning.
app  Good morning.
visitor  How are you?
app  Very well.
`;

describe("a script of checks", () => {
  it("is read by line: what is asked, what comes before, and what is expected of which reply", () => {
    const { script, faults } = parseScript(boat);
    expect(faults).toEqual([]);
    const [check] = script.checks;
    expect(check).toMatchObject({ name: "remembers the boat", line: 2, least: { held: 4, of: 5 }, now: "2025-06-01" });
    expect(check?.steps.map((step) => [step.kind, step.line])).toEqual([
      ["ask", 5],
      ["after", 6],
      ["ask", 7],
      ["ask", 11],
    ]);
    const asked = check?.steps.flatMap((step) => (step.kind === "ask" ? [step] : [])) ?? [];
    expect(asked[2]?.message).toBe("And what do the bicycles cost?\nFor both of them.");
    expect(asked.map(({ expected }) => expected.map(({ line }) => line))).toEqual([[], [8, 9, 10], [13, 14, 15]]);
    expect(check?.whole).toHaveLength(1);
    expect(script.filed).toEqual([
      {
        name: "small-talk",
        line: 19,
        turns: [
          { visitor: "Good morning.", app: "Good morning." },
          { visitor: "How are you?", app: "Very well." },
        ],
      },
    ]);
  });

  it("prints as it is written", () => {
    expect(printScript(parseScript(boat).script)).toBe(boat);
  });

  it("is told apart by what it does: a check prints with the turns that it refers to, and without comments of others", () => {
    const { script } = parseScript(boat);
    const check = script.checks[0];
    if (!check) throw new Error("There is no check.");
    const alone = printCheck(check, script.filed);
    expect(alone).toContain("app  Very well.");
    expect(printCheck(check, [])).not.toContain("Very well");
    const again = parseScript(alone);
    expect(again.faults).toEqual([]);
    expect(printCheck(again.script.checks[0] ?? check, again.script.filed)).toBe(alone);
  });

  it.each(badScripts.map(([script, line, why]) => ({ script, line, why })))(
    "names the line and the reason: $why",
    ({ script, line, why }) => {
      const { faults } = parseScript(script);
      expect(faults[0]).toMatchObject({ line, why: expect.stringContaining(why), advice: expect.stringMatching(/\S/) });
    },
  );

  it("reads the rest of a script in which lines are wrong", () => {
    const { script, faults } = parseScript(
      'check  a\nvisitor  b\n    sys c\n    says "d"\nchek  e\nvisitor  f\n    says "g"',
    );
    expect(faults.map(({ line }) => line)).toEqual([3, 5]);
    expect(script.checks[0]?.steps).toHaveLength(2);
  });

  it("takes no script without end", () => {
    expect(parseScript("x".repeat(500_001)).faults[0]?.why).toContain("500001 characters");
    expect(parseScript("\n".repeat(20_001)).faults[0]?.why).toContain("20002 lines");
  });
});

const word = fc.stringMatching(/^[a-zA-Zäé9:€.,'!?-]{1,12}$/);
const name = fc.array(word, { minLength: 1, maxLength: 4 }).map((words) => words.join(" "));
const quoted = fc
  .string({ minLength: 1, maxLength: 40, unit: "grapheme" })
  .filter((text) => text.trim() !== "" && !/[\r\u2028\u2029]/.test(text));
/** A text of one line or several, as a script can hold it. */
const text = fc
  .array(fc.string({ maxLength: 40, unit: "grapheme" }), { minLength: 1, maxLength: 3 })
  .map((lines) => lines.map((line) => line.replace(/[\r\n\u2028\u2029]/g, " ").trimEnd()))
  .map(([first = "", ...more]) => [first.trim(), ...more].join("\n"))
  .filter((each) => (each.split("\n")[0] as string) !== "");
const whole = fc.integer({ min: 1, max: 500 });
const not = fc.constantFrom({}, { not: true as const });
const expectation = fc
  .oneof(
    fc.record({ kind: fc.constant("says"), texts: fc.array(quoted, { minLength: 1, maxLength: 3 }) }),
    fc.record({ kind: fc.constant("is"), text: quoted }),
    fc.record({
      kind: fc.constant("states"),
      text: fc.constantFrom("9:40", "€4.00", "Tansy Holm", "two bicycles", "1 June 2025", 'the "9:40"'),
    }),
    fc.constantFrom(
      { kind: "states-other" },
      { kind: "states-other", of: "time" },
      { kind: "states-other", of: "name" },
    ),
    fc.constantFrom(
      { kind: "matches", source: "a\\/b[/]c", flags: "i" },
      { kind: "matches", source: "\\d+", flags: "" },
    ),
    fc.record({ kind: fc.constant("length"), least: whole, unit: fc.constantFrom("words", "tokens") }),
    fc.record({ kind: fc.constant("length"), most: whole, unit: fc.constantFrom("sentences", "characters") }),
    whole.map((least) => ({ kind: "length", least, most: least + 3, unit: "paragraphs" })),
    fc.record({ kind: fc.constant("has"), form: fc.constantFrom("list", "table", "code", "bold", "Markdown") }),
    fc.constant({ kind: "json" }),
    fc.record({
      kind: fc.constant("fits"),
      schema: fc.constantFrom({ type: "object" }, true, { enum: ["a | b", "c\nd"] }),
    }),
    fc.record({
      kind: fc.constant("value-at"),
      path: fc.constantFrom("$.a", "$.a[0].b", "$"),
      value: fc.jsonValue({ maxDepth: 2 }),
    }),
    fc.record({ kind: fc.constant("written-in"), script: fc.constantFrom("Latin", "Japanese") }),
    fc.record({ kind: fc.constant("ends"), outcome: fc.constantFrom("complete", "too-long", "timed-out") }),
    fc.constantFrom({ kind: "declines" }, { kind: "declines", text: "No." }),
    fc.constantFrom({ kind: "was-sent", what: { kind: "pin" } }, { kind: "was-sent", what: { kind: "turn", turn: 3 } }),
    fc.record({
      kind: fc.constant("within"),
      what: fc.constantFrom("first text", "whole"),
      seconds: fc.constantFrom(0.05, 2, 12.5),
    }),
    fc.record({ kind: fc.constant("costs"), most: whole, of: fc.constantFrom("price", "input") }),
    fc.record({ kind: fc.constant("like"), text: quoted, least: fc.integer({ min: 1, max: 100 }) }),
  )
  .chain((each) => not.map((opposite) => ({ ...each, ...opposite })));

const check = fc
  .record({
    name,
    least: fc.option(fc.integer({ min: 1, max: 9 }).map((held) => ({ held, of: 9 }))),
    given: fc.uniqueArray(
      fc
        .stringMatching(/^[a-z][a-zA-Z0-9_]{0,8}$/)
        .filter((each) => !["now", "today", "time", "weekday"].includes(each)),
      { maxLength: 2 },
    ),
    asked: fc.array(fc.record({ text, expected: fc.array(expectation, { maxLength: 3 }), said: fc.option(text) }), {
      minLength: 1,
      maxLength: 3,
    }),
    after: fc.option(
      fc.record({
        turns: fc.option(whole),
        from: fc.oneof(
          name.map((each) => ({ kind: "filed", name: `t ${each}` })),
          fc.constant({ kind: "conversation", id: "cnv_0A" }),
        ),
      }),
    ),
    whole: fc.array(expectation, { maxLength: 2 }),
  })
  .map(({ name, least, given, asked, after, whole }): Saying[] => [
    { kind: "check", name },
    { kind: "passes", least },
    ...given.map((each): Saying => ({ kind: "given", name: each, value: "Mira of the quay" })),
    ...asked.flatMap(({ text, said }): Saying[] =>
      said === null
        ? []
        : [
            { kind: "visitor", text },
            { kind: "app", text: said },
          ],
    ),
    ...((after ? [{ kind: "after", ...after }] : []) as Saying[]),
    { kind: "visitor", text: asked[0]?.text ?? "a" },
    ...(asked[0]?.expected ?? []).map((each) => ({ kind: "expect", expectation: each }) as Saying),
    ...((whole.length > 0
      ? [{ kind: "whole" }, ...whole.map((each) => ({ kind: "expect", expectation: each }))]
      : []) as Saying[]),
  ]);

describe("printing and reading", () => {
  it("undo each other for whatever a script says", () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(check, { minLength: 1, maxLength: 3, selector: ([head]) => JSON.stringify(head) }),
        (checks) => {
          const lines = checks.flat().map((says, at) => ({ line: at + 1, says }));
          const printed = printScript({ lines });
          const { script, faults } = parseScript(printed);
          expect(faults).toEqual([]);
          expect(script.lines.map(({ says }) => says)).toEqual(lines.map(({ says }) => says));
          expect(printScript(script)).toBe(printed);
        },
      ),
    );
  });

  it("undo each other for every form that is told", () => {
    for (const form of expectationForms.flat()) {
      const read = readExpectation(form);
      expect(readExpectation(writeExpectation(read))).toEqual(read);
    }
  });
});
