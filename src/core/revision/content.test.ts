import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { blocksIn, stretchesOf, withoutBlocks } from "./blocks";
import { changesBetween } from "./changes";
import { dayBegan } from "./clock";
import { type Content, canonical, contentSchema, sameContent } from "./content";
import { fillPrompt, variablesIn } from "./variables";

const content: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { temperature: 0.7, maxOutput: 800 },
  memory: { kind: "everything" },
};

describe("the content of a revision", () => {
  it("is the same whatever the order of its members", () => {
    const shuffled = {
      memory: content.memory,
      settings: { maxOutput: 800, temperature: 0.7 },
      model: "m",
      provider: "p",
      variables: {},
      prompt: "Be brief.",
    };
    expect(sameContent(content, shuffled as Content)).toBe(true);
    expect(sameContent(content, { ...content, prompt: "Be long." })).toBe(false);
  });

  it("is the same whether a member says what its absence says, or is not there", () => {
    const { variables: _variables, ...bare } = content;
    const said: Content = {
      ...content,
      off: [],
      samples: {},
      opening: [],
      fallbacks: [],
      timeZone: "UTC",
      settings: { ...content.settings, stop: [], seed: undefined },
    };
    expect(canonical(said)).toBe(canonical(bare as Content));
    expect(canonical(said)).toBe(
      '{"memory":{"kind":"everything"},"model":"m","prompt":"Be brief.","provider":"p","settings":{"maxOutput":800,"temperature":0.7}}',
    );
    expect(sameContent(content, { ...content, timeZone: "Europe/Paris" })).toBe(false);
    expect(contentSchema.parse(JSON.parse(canonical(said)))).toEqual(content);
  });

  it("leaves schemas in the order in which a model is told of them", () => {
    const schema = { type: "object", properties: { why: { type: "string" }, answer: { type: "string" } } };
    const tool = { name: "fares", description: "Fares.", parameters: schema, answer: { by: "hand" } };
    const content = contentSchema.parse({
      prompt: "",
      provider: "p",
      model: "m",
      settings: {},
      memory: { kind: "everything" },
      schema,
      tools: [tool],
    });
    const kept = contentSchema.parse(JSON.parse(canonical(content)));
    expect(JSON.stringify(kept.schema)).toBe(JSON.stringify(schema));
    expect(JSON.stringify(kept.tools?.[0]?.parameters)).toBe(JSON.stringify(schema));
    expect(Object.keys(JSON.parse(canonical(content)))).toEqual([
      "memory",
      "model",
      "prompt",
      "provider",
      "schema",
      "settings",
      "tools",
    ]);
  });

  it.each([
    [{ ...content, settings: { temperature: 3 } }, "temperature above 2"],
    [{ ...content, settings: { topP: 0 } }, "top-p of 0"],
    [{ ...content, colour: "red" }, "an unknown member"],
  ])("%j is refused: %s", (wrong: object, _why: string) => {
    expect(contentSchema.safeParse(wrong).success).toBe(false);
  });
});

describe("prompt variables", () => {
  const monday = Date.UTC(2026, 10, 23, 9, 40);
  const of = (prompt: string, more: Partial<Content> = {}) => ({ prompt, variables: {}, ...more });

  it("are found once each, in order", () => {
    expect(variablesIn("{{desk}} on {{ today }} at {{desk}}, not {{}} nor {{A}}")).toEqual(["desk", "today"]);
  });

  it("are filled from the clock and from the call", () => {
    expect(fillPrompt(of("{{weekday}} {{today}} {{time}}, {{desk}}"), { desk: "Mill Quay" }, monday)).toEqual({
      text: "Monday 2026-11-23 09:40, Mill Quay",
      missing: [],
    });
  });

  it("of the clock go by the app's time zone, over midnight and with summer time", () => {
    const prompt = "{{weekday}} {{today}} {{time}}";
    const late = Date.UTC(2026, 5, 30, 22, 30);
    expect(fillPrompt(of(prompt, { timeZone: "Europe/Paris" }), {}, late).text).toBe("Wednesday 2026-07-01 00:30");
    expect(fillPrompt(of(prompt, { timeZone: "America/Halifax" }), {}, late).text).toBe("Tuesday 2026-06-30 19:30");
    expect(contentSchema.safeParse({ ...content, timeZone: "Brindle/Quay" }).success).toBe(false);
  });

  it("in blocks that are switched off need no value", () => {
    const prompt = "Be brief.\n[[luggage]]\nAt {{desk}}.\n[[end]]\nBe kind.";
    expect(fillPrompt(of(prompt), {}, monday)).toMatchObject({
      text: "Be brief.\nAt {{desk}}.\nBe kind.",
      missing: ["desk"],
    });
    expect(fillPrompt(of(prompt, { off: ["luggage"] }), {}, monday)).toEqual({
      text: "Be brief.\nBe kind.",
      missing: [],
    });
  });

  it("that have no value are named and left as they stand", () => {
    expect(fillPrompt(of("At {{desk}} by {{who}}"), { who: "Ada" }, monday)).toEqual({
      text: "At {{desk}} by Ada",
      missing: ["desk"],
    });
  });

  it("in a value are not filled again, and names of the prototype are not values", () => {
    expect(fillPrompt(of("{{a}}"), { a: "{{today}}" }, monday).text).toBe("{{today}}");
    expect(fillPrompt(of("{{constructor}}"), {}, monday).missing).toEqual(["constructor"]);
  });
});

describe("a day", () => {
  it("begins at midnight of its time zone, on days too on which the clock is set", () => {
    const at = (text: string) => Date.parse(text);
    expect(dayBegan(at("2026-11-27T09:40:12Z"))).toBe(at("2026-11-27T00:00:00Z"));
    expect(dayBegan(at("2026-06-30T22:30:00Z"), "Europe/Paris")).toBe(at("2026-06-30T22:00:00Z"));
    // forward on 29 March at 2:00, back on 25 October at 3:00
    expect(dayBegan(at("2026-03-29T12:00:00Z"), "Europe/Paris")).toBe(at("2026-03-28T23:00:00Z"));
    expect(dayBegan(at("2026-10-25T12:00:00Z"), "Europe/Paris")).toBe(at("2026-10-24T22:00:00Z"));
    expect(dayBegan(at("2026-07-01T12:00:00Z"), "Asia/Kathmandu")).toBe(at("2026-06-30T18:15:00Z"));
  });
});

describe("blocks of a prompt", () => {
  it("go from their name to the next one, or to their end, and are sent without these lines", () => {
    const prompt = "One.\n[[a]]\nTwo.\n [[ b b ]] \nThree.\n[[end]]\nFour. [[not one]]";
    expect(stretchesOf(prompt)).toEqual([
      { block: null, text: "One.", line: 0 },
      { block: "a", text: "Two.", line: 2 },
      { block: "b b", text: "Three.", line: 4 },
      { block: null, text: "Four. [[not one]]", line: 6 },
    ]);
    expect(blocksIn(prompt)).toEqual(["a", "b b"]);
    expect(withoutBlocks(prompt, ["a"])).toBe("One.\nThree.\nFour. [[not one]]");
  });

  it("leave a prompt without any as it is", () => {
    fc.assert(
      fc.property(fc.string(), (prompt) => {
        if (blocksIn(prompt).length === 0 && !prompt.includes("[[")) expect(withoutBlocks(prompt, ["a"])).toBe(prompt);
      }),
    );
    expect([stretchesOf(""), withoutBlocks("", [])]).toEqual([[{ block: null, text: "", line: 0 }], ""]);
  });
});

describe("what changed between two contents", () => {
  it("is told of every setting, of the model and its fallbacks, and of nothing that stayed", () => {
    const before: Content = {
      prompt: "Be brief.",
      variables: {},
      provider: "p1",
      model: "reed-swift",
      settings: { temperature: 0.7, maxOutput: 800 },
      memory: { kind: "everything" },
    };
    const after: Content = {
      ...before,
      prompt: "Be long.",
      variables: { desk: "Mill Quay" },
      provider: "p2",
      fallbacks: [{ provider: "p1", model: "reed-deep" }],
      settings: { temperature: 0.7, topP: 0.9, topK: 40, seed: 7, stop: ["END", "\n"] },
    };
    const words = {
      memory: ({ kind }: Content["memory"]) => kind,
      provider: (id: string) => ({ p1: "Reedbed", p2: "Saltpan" })[id] ?? id,
    };
    expect(changesBetween(before, after, words)).toEqual([
      { what: "provider", was: "Reedbed", is: "Saltpan" },
      { what: "fallbacks", was: "none", is: "reed-deep on Reedbed" },
      { what: "top-p", was: "its own", is: "0.9" },
      { what: "top-k", was: "its own", is: "40" },
      { what: "output limit", was: "800", is: "its own" },
      { what: "seed", was: "its own", is: "7" },
      { what: "stop words", was: "none", is: '"END", "\\n"' },
      { what: "variables", was: "none", is: "desk = Mill Quay" },
    ]);
    expect(changesBetween(before, { ...before, prompt: "x" }, words)).toEqual([]);
  });
});
