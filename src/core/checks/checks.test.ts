import { describe, expect, it } from "vitest";
import { schemas } from "../schema/schema";
import { schemaFault } from "../schema/shape";
import { decliningIn } from "./declining";
import { checkFrom, type SaidTurn } from "./from-turns";
import { judgeAll } from "./judging";
import { lackingIn } from "./lacking";
import { lengthOf, likeness, sentencesOf } from "./measures";
import { parseScript } from "./parse";
import { expectedIn } from "./script";
import { isSilencing, outcomeOf } from "./trial";

describe("lengths", () => {
  it.each([
    ["The boat leaves at 9.40 a.m. from Mill Quay. It costs €2.00.", 2],
    ["Ask Mr. Holm, e.g. on the quay.", 1],
    ["- one\n- two\n- three", 3],
    ["| a | b |\n| --- | --- |\n| 1 | 2 |", 2],
    ["Really?! Yes… of course.", 3],
    ["はい。いいえ。", 2],
    ["", 0],
  ])("counts the sentences of %j", (text, count) => {
    expect(sentencesOf(text)).toHaveLength(count);
  });

  it("counts characters as readers see them, words likewise, and paragraphs by blank lines", () => {
    expect(lengthOf("👩‍👩‍👧 é", "characters")).toBe(3);
    expect(lengthOf("It costs €4.00 at 9:40.", "words")).toBe(5);
    expect(lengthOf("a\n\n\nb\n \nc", "paragraphs")).toBe(3);
  });

  it("measures likeness by the longest common subsequence of words", () => {
    expect(likeness("the cat sat", "the cat sat")).toBe(1);
    expect(likeness("police killed the gunman", "police kill the gunman")).toBe(0.75);
    expect(likeness("one", "two")).toBe(0);
    expect(likeness("", "")).toBe(1);
  });
});

describe("the sentence to decline with", () => {
  it.each([
    ['To anything else say: "That lies beyond the quay."', ["That lies beyond the quay."]],
    ["If you do not know, answer “Please ask the quay office.” and nothing else.", ["Please ask the quay office."]],
    ['Greet everybody with "Good day to you." Be brief.', []],
    ["Decline politely.", []],
  ])("is found in %j", (prompt, found) => {
    expect(decliningIn(prompt)).toEqual(found);
  });
});

describe("a schema", () => {
  it.each([
    [{ type: "object", properties: { a: { type: "integer", minimum: 1 } }, required: ["a"] }, undefined],
    [true, undefined],
    [{ type: "thing" }, "type"],
    [{ properties: { a: { enum: "b" } } }, "enum"],
    [{ items: { pattern: "(" } }, "pattern"],
    [{ $ref: "https://example.test/a" }, "$ref"],
    [{ minLength: -1 }, "minLength"],
    [{ allOf: [] }, "allOf"],
    [3, "object"],
  ] as const)("of %j is told by its shape", (schema, fault) => {
    if (fault === undefined) expect(schemaFault(schema as never)).toBeUndefined();
    else expect(schemaFault(schema as never)).toContain(fault);
  });
});

describe("what a candidate lacks", () => {
  it("is told by the sentences of the prompt, those first that have to do with what was expected", () => {
    const base = "You are Quay Desk. Use the passenger's name. Answer in at most five sentences.";
    expect(lackingIn(base, "You are quay desk.", "at most 5 sentences")).toEqual([
      "Answer in at most five sentences.",
      "Use the passenger's name.",
    ]);
    expect(lackingIn(base, base)).toEqual([]);
    // what is quoted stays whole, and a mark that is not closed swallows nothing for ever
    const quoting = 'Be brief. To others say: "That lies beyond the quay. I help with the ferry." Use names.';
    expect(lackingIn(quoting, "Be brief. Use names.")).toEqual([
      'To others say: "That lies beyond the quay. I help with the ferry."',
    ]);
    expect(lackingIn('Say "aye. Use names.', "")).toEqual(['Say "aye. Use names.']);
  });
});

describe("a trial", () => {
  it("broke where anything broke, and is silent where a reply could not be had", () => {
    expect(outcomeOf([{ outcome: "held" }, { outcome: "broke" }], true)).toBe("broke");
    expect(outcomeOf([{ outcome: "held" }], true)).toBe("silent");
    expect(outcomeOf([{ outcome: "silent" }], false)).toBe("silent");
    expect(outcomeOf([], false)).toBe("held");
    expect(isSilencing("rate-limited") && isSilencing("timed-out") && isSilencing("unreachable")).toBe(true);
    expect(isSilencing("empty") || isSilencing("too-long")).toBe(false);
  });

  it("says of what it needed whether it was sent, and why not", () => {
    const { script } = parseScript("check  a\nvisitor  Which boat am I on?\n    states 9:40");
    const expected = script.checks[0] ? expectedIn(script.checks[0]) : [];
    const seen = {
      text: "You have not told me.",
      message: "Which boat am I on?",
      outcome: "complete",
      ms: 1,
      hasPin: false,
      hasSummary: false,
      passages: [],
      calls: [],
      unknown: null,
      prompt: "",
    };
    const earlier = [{ turn: 1, said: "I'm on the 9:40.\nNoted." }];
    const means = {
      matches: () => undefined,
      misfit: (schema: object | boolean, value: unknown) => schemas.misfitOf(schema, value),
    };
    const out = { turn: 1, isSent: false, reason: { kind: "older", most: 2, of: "turns" } } as const;
    const [missed] = judgeAll({ expected, seen: { ...seen, turns: [out] }, earlier }, means);
    expect(missed?.needed).toEqual({ kind: "not-sent", need: "9:40", turn: 1, sent: out });
    const sent = { turn: 1, isSent: true, reason: { kind: "remembered" } } as const;
    const [unused] = judgeAll({ expected, seen: { ...seen, turns: [sent] }, earlier }, means);
    expect(unused?.needed).toEqual({ kind: "not-used", need: "9:40", turn: 1 });
    const [told] = judgeAll(
      { expected, seen: { ...seen, turns: [], prompt: "The boat is the 9:40." }, earlier: [] },
      means,
    );
    expect(told?.needed).toEqual({ kind: "not-used", need: "9:40", turn: null });
    const [nowhere] = judgeAll({ expected, seen: { ...seen, turns: [] }, earlier: [] }, means);
    expect(nowhere?.needed).toBeUndefined();
  });
});

describe("a check of a conversation", () => {
  const turn = (visitor: string, app: string, more: Partial<SaidTurn> = {}): SaidTurn => ({
    visitor,
    app,
    rating: null,
    isCorrected: false,
    marks: [],
    ...more,
  });
  const made = (asked: SaidTurn[], before: SaidTurn[] = []) =>
    checkFrom({ name: "a talk", before, asked, prompt: 'To anything else say: "That lies beyond the quay."' });

  it("expects the facts of each reply and its form, and holds of what was said", () => {
    const text = made([
      turn("What does a bicycle cost?", "A bicycle costs €2.00 each way."),
      turn("When does it leave?", "- 9:40 from Mill Quay\n- 17:30"),
      turn("Write a poem.", "That lies beyond the quay."),
    ]);
    expect(text).toBe(
      `check  a talk
visitor  What does a bicycle cost?
    states €2.00
    has no list
    at most 3 sentences
visitor  When does it leave?
    states 9:40
    states Mill Quay
    states 17:30
    has a list
visitor  Write a poem.
    declines
`,
    );
    expect(parseScript(text).faults).toEqual([]);
  });

  it("gives what was said before a reply, and expects what a mark or a correction says of it", () => {
    const before = [turn("I'm on the 9:40.", "Noted.")];
    const wrong = { fact: "17:30", isRight: false };
    const bad = made([turn("When?", "At 17:30.", { rating: "bad", marks: [wrong] })], before);
    expect(bad).toContain("visitor  I'm on the 9:40.\napp  Noted.\nvisitor  When?\n");
    expect(bad).toContain("does not state 17:30");
    expect(bad).toContain('is unlike "At 17:30." by 90%');
    expect(bad).not.toMatch(/^ {4}states 17:30/m);
    const corrected = made([turn("When?", "At 9:40.", { isCorrected: true })], before);
    expect(corrected).toContain("states 9:40");
    expect(corrected).toContain('is like "At 9:40."');
  });
});
