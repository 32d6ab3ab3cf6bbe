import { describe, expect, it } from "vitest";
import { schemas } from "../../schema/schema";
import { parseScript } from "../parse";
import type { Seen } from "../seen";
import { expectationForms, judge, readExpectation, tellJudged } from "./expectations";

const seen: Seen = {
  text: "",
  message: "Which boat am I on?",
  outcome: "complete",
  ms: 2_400,
  firstTextMs: 800,
  input: 320,
  output: 42,
  price: 0.0021,
  currency: "EUR",
  turns: [
    { turn: 1, isSent: false, reason: { kind: "older", most: 2, of: "turns" } },
    { turn: 2, isSent: true, reason: { kind: "remembered" } },
  ],
  hasPin: false,
  hasSummary: true,
  passages: [
    { rank: 1, mark: "rules 1", where: "Rules, Animals, page 4", text: "Dogs travel free at 9:40.", isCited: true },
    { rank: 2, mark: "rules 2", where: "Rules, Cats", text: "Cats travel in a basket for €1.00.", isCited: false },
    { rank: 3, mark: "", where: "Timetable, row 6", text: "Leaves: 17:30", isCited: false, reason: "over-room" },
  ],
  calls: [
    {
      round: 1,
      name: "places_left",
      arguments: { boat: "9:40", kinds: ["seat"], for: { day: "Sunday" } },
      result: "3 left",
    },
    { round: 2, name: "fares", arguments: {}, result: "€4.40" },
  ],
  unknown: "My papers do not say.",
  prompt: 'Answer only about the ferry. To anything else say: "That lies beyond the quay."',
  named: ["09:40"],
  matches: ({ source, flags }) => new RegExp(source, flags).test(seen.text),
  misfit: (schema: object | boolean, value: unknown) => schemas.misfitOf(schema, value),
};

/** How an expectation comes out on a reply, and what is told of it. */
function judged(line: string, text: string, more: Partial<Seen> = {}) {
  const expectation = readExpectation(line);
  const all: Seen = {
    ...seen,
    text,
    ...more,
    matches: ({ source, flags }) => new RegExp(source, flags).test(text),
    ...(more.matches ? { matches: more.matches } : {}),
  };
  const found = judge({ line: 1, expectation }, all);
  return { outcome: found.outcome, told: tellJudged(expectation, JSON.parse(JSON.stringify(found))) };
}

/** An expectation, a reply on which it holds, one on which it breaks, and what is told of that. */
const cases: [line: string, holds: string, breaks: string, told: string][] = [
  ['says "bicycle"', "A Bicycle is welcome.", "Bicycles are welcome.", 'said "Bicycles are welcome."'],
  ['says "two bicycles"', "Two bicycles fit.", "Two of your bicycles fit.", "said"],
  ['does not say "dog"', "Cats only.", "A dog, too.", 'said "dog"'],
  ['says one of "sorry", "regret"', "We regret it.", "Fine.", "said"],
  ['says none of "maybe", "perhaps"', "Yes.", "Perhaps so.", 'said "perhaps"'],
  ['is "Yes."', " Yes. ", "Yes, it is.", 'was "Yes, it is."'],
  ['is not "No."', "Yes.", "No.", 'was "No."'],
  ["matches /\\b\\d{1,2}:\\d{2}\\b/", "At 9:40.", "At noon.", 'said "At noon."'],
  ["does not match /as a model/i", "Gladly.", "As a Model, I can't.", "said"],
  ["states 9:40", "You are on the twenty to ten boat at 09:40.", "You are on the 10:40.", "stated 10:40"],
  ["states €4.00", "That is 4 euros.", "That is €2.00.", "stated €2.00"],
  ['states "Tansy Holm"', "It goes to Tansy Holm.", "It goes to Brindle.", "stated"],
  ["does not state 17:30", "At 9:40.", "At 9:40 and 17:30.", "stated"],
  ["states no other time", "The 9:40.", "The 9:40, or the 10:20.", "stated 10:20 too"],
  ["states another time", "The 9:40, or the 10:20.", "The 9:40.", "stated no other"],
  ["at most 2 sentences", "One. Two, at 9.40 a.m. sharp.", "One. Two. Three.", "said 3 sentences"],
  ["at least 3 words", "One two three", "One two", "said 2 words"],
  ["between 1 and 2 paragraphs", "One.\n\nTwo.", "One.\n\nTwo.\n\nThree.", "said 3 paragraphs"],
  ["more than 3 characters", "four", "one", "said 3 characters"],
  ["fewer than 3 words", "One two", "One two three", "said 3 words"],
  ["not between 1 and 3 words", "One two three four", "One", "said 1 word"],
  ["has a list", "- one\n- two", "one, two", "has plain text alone"],
  ["has no table", "plain", "| a | b |\n| - | - |\n| 1 | 2 |", "has a table"],
  ["has code", "Say `go`.", "Say go.", "has plain text alone"],
  ["has no link", "See https://example.test/.", "See [there](https://example.test/).", "has a link"],
  ["has no Markdown", "Plain words.", "**Bold** words.", "has bold words"],
  ["has a heading", "# Boats", "Boats", "has plain text alone"],
  ["is JSON", '```json\n{"a": 1}\n```', "a: 1", 'said "a: 1"'],
  ["is not JSON", "a: 1", "[1]", 'said "[1]"'],
  [
    'fits {"type": "object", "required": ["boat"]}',
    '{"boat": "9:40"}',
    '{"ship": 1}',
    "must have required property 'boat'",
  ],
  ['does not fit {"type": "array"}', "{}", "[]", "said"],
  ['at $.boat is "9:40"', '{"boat": "9:40"}', '{"boat": "9:20"}', 'has "9:20" at $.boat'],
  ["at $.bicycles is not 3", '{"bicycles": 2}', '{"bicycles": 3}', "has 3 at $.bicycles"],
  ["is written in Latin", "Guten Tag, Мира.", "Добрый день.", "0% of its letters in Latin"],
  ["is written in Japanese", "こんにちは。", "Hello.", "0% of its letters in Japanese"],
  ["declines", "I fear that lies beyond the quay.", "Here is a poem.", 'said "Here is a poem."'],
  ['declines with "No, thank you."', "No, thank you.", "Yes.", 'said "Yes."'],
  ["does not decline", "Here you are.", "That lies beyond the quay.", "said"],
  ["says that it does not know", "I fear my papers do not say.", "It is noon.", 'said "It is noon."'],
  ["does not say that it does not know", "It is noon.", "My papers do not say.", "said"],
  [
    "states only what the passages state",
    "At 9:40, for 1 euro.",
    "At 9:40, and at 17:30.",
    "stated 17:30, which no passage states",
  ],
  [
    'is like "The 9:40 reaches Brindle at 10:05."',
    "The 9:40 boat reaches Brindle at 10:05.",
    "Dogs travel free.",
    "% like it",
  ],
  ['is unlike "I do not know."', "The 9:40.", "I do not know.", "100% like it"],
];

describe("an expectation", () => {
  it.each(cases)("%s", (line, holds, breaks, told) => {
    expect(judged(line, holds).outcome).toBe("held");
    const broken = judged(line, breaks);
    expect(broken.outcome).toBe("broke");
    expect(broken.told).toContain(told);
  });

  it.each([
    ["ends complete", {}, { outcome: "cut" }, "ended cut"],
    ["calls places_left", {}, { calls: [] }, "called no tool"],
    ["calls a tool", {}, { calls: [] }, "called no tool"],
    [
      "calls no tool",
      { calls: [] },
      {},
      'called places_left with {"boat":"9:40","kinds":["seat"],"for":{"day":"Sunday"}}, fares with {}',
    ],
    [
      'calls places_left with {"boat": "9:40"}',
      {},
      { calls: [{ round: 1, name: "places_left", arguments: {}, result: "" }] },
      "places_left with {}",
    ],
    ['calls places_left with {"for": {"day": "Sunday"}, "kinds": ["seat"]}', {}, { calls: [] }, "called no tool"],
    [
      'does not call places_left with {"kinds": []}',
      {},
      { calls: [{ round: 1, name: "places_left", arguments: { kinds: [] }, result: "" }] },
      "places_left",
    ],
    ["does not call book", {}, { calls: [{ round: 1, name: "book", arguments: {}, result: "" }] }, "called book"],
    [
      "at most 2 rounds",
      {},
      { calls: [1, 2, 3].map((round) => ({ round, name: "fares", arguments: {}, result: "" })) },
      "took 3 rounds",
    ],
    ["more than 1 round", {}, { calls: [] }, "took 0 rounds"],
    ["does not end cut", {}, { outcome: "cut" }, "ended cut"],
    ["ends too-long", { outcome: "too-long" }, {}, "ended complete"],
    ["turn 2 was sent", {}, { turns: [] }, "has no turn 2 before it"],
    ['cites "Rules, Animals"', {}, { passages: [] }, 'never found "Rules, Animals", and cites nothing'],
    [
      'does not cite "Cats"',
      {},
      { passages: seen.passages.map((each) => ({ ...each, isCited: true })) },
      "and cites it",
    ],
    ['was given "Cats"', {}, { passages: seen.passages.slice(0, 1) }, 'never found "Cats"'],
    [
      'was not given "Timetable"',
      {},
      { passages: seen.passages.map((each) => ({ ...each, mark: "x 1" })) },
      "was given",
    ],
    [
      "turn 1 was not sent",
      {},
      { turns: [{ turn: 1, isSent: true, reason: { kind: "remembered" } }] },
      "was sent without",
    ],
    ["a summary was sent", {}, { hasSummary: false }, "was sent without a summary"],
    ["no pin was sent", {}, { hasPin: true }, "pin"],
    ["first text within 1 s", {}, { firstTextMs: 1_200 }, "took 1.20 s to its first text"],
    ["whole within 3 s", {}, { ms: 4_000 }, "took 4.00 s to its end"],
    ["first text after 1 s", { firstTextMs: 1_200 }, {}, "took 0.80 s"],
    ["costs at most 0.01", {}, { price: 0.02 }, "cost 0.02 EUR"],
    ["sends at most 400 tokens", {}, { input: 900 }, "was sent 900 tokens"],
    ["at most 50 tokens", {}, { output: 60 }, "said 60 tokens"],
  ] satisfies [string, Partial<Seen>, Partial<Seen>, string][])("%s", (line, holds, breaks, told) => {
    expect(judged(line, "Words.", holds).outcome).toBe("held");
    const broken = judged(line, "Words.", breaks);
    expect(broken.outcome).toBe("broke");
    expect(broken.told).toContain(told);
  });

  it("is silent where it can't be found out: a pattern that ran away, a price that nobody set, a prompt without a sentence", () => {
    expect(judged("matches /(a+)+$/", "aaaa", { matches: () => undefined })).toEqual({
      outcome: "silent",
      told: expect.stringContaining("ran away"),
    });
    expect(judged("costs at most 1", "a", { price: undefined }).outcome).toBe("silent");
    expect(judged("declines", "No.", { prompt: "Be kind." }).outcome).toBe("silent");
  });

  it("takes a time of the visitor's own as no other one", () => {
    const asked = { message: "When does the 9:40 arrive?", named: ["10:05"] };
    expect(judged("states no other time", "The 9:40 arrives at 10:05.", asked).outcome).toBe("held");
  });

  it("is told of in forms that are all read, and that the grammar names", () => {
    for (const form of expectationForms.flat()) expect(() => readExpectation(form)).not.toThrow();
  });

  it("is judged by the facts that the others of its reply name", () => {
    const { script } = parseScript("check  a\nvisitor  b\n    states 9:40\n    states no other time");
    expect(script.checks[0]?.steps[0]).toMatchObject({ expected: [{ line: 3 }, { line: 4 }] });
  });
});

describe("a passage that is not cited", () => {
  it.each([
    ['cites "page 4"', "held", "was given"],
    [
      'cites "in a basket"',
      "broke",
      'was given "in a basket" as [rules 2], and did not use it; it cites Rules, Animals, page 4',
    ],
    ['cites "17:30"', "broke", 'found "17:30" as number 3, and left it out (over-room)'],
    ['cites "Handbook"', "broke", 'never found "Handbook"'],
  ])("%s: %s, of three faults the one that it was", (line, outcome, told) => {
    const found = judged(line, "Dogs travel free [rules 1].");
    expect(found.outcome).toBe(outcome);
    expect(found.told).toContain(told);
  });
});
