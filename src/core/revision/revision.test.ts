import { describe, expect, it } from "vitest";
import { changesBetween } from "./changes";
import { type Content, contentSchema, sameContent } from "./revision";
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

  it("are found once each, in order", () => {
    expect(variablesIn("{{desk}} on {{ today }} at {{desk}}, not {{}} nor {{A}}")).toEqual(["desk", "today"]);
  });

  it("are filled from the clock and from the call", () => {
    expect(fillPrompt("{{weekday}} {{today}} {{time}}, {{desk}}", { desk: "Mill Quay" }, monday)).toEqual({
      text: "Monday 2026-11-23 09:40, Mill Quay",
      missing: [],
    });
  });

  it("that have no value are named and left as they stand", () => {
    expect(fillPrompt("At {{desk}} by {{who}}", { who: "Ada" }, monday)).toEqual({
      text: "At {{desk}} by Ada",
      missing: ["desk"],
    });
  });

  it("in a value are not filled again, and names of the prototype are not values", () => {
    expect(fillPrompt("{{a}}", { a: "{{today}}" }, monday).text).toBe("{{today}}");
    expect(fillPrompt("{{constructor}}", {}, monday).missing).toEqual(["constructor"]);
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
    const nameOf = (id: string) => ({ p1: "Reedbed", p2: "Saltpan" })[id] ?? id;
    expect(changesBetween(before, after, nameOf)).toEqual([
      { what: "provider", was: "Reedbed", is: "Saltpan" },
      { what: "fallbacks", was: "none", is: "reed-deep on Reedbed" },
      { what: "top-p", was: "its own", is: "0.9" },
      { what: "top-k", was: "its own", is: "40" },
      { what: "output limit", was: "800", is: "its own" },
      { what: "seed", was: "its own", is: "7" },
      { what: "stop words", was: "none", is: '"END", "\\n"' },
      { what: "variables", was: "none", is: "desk = Mill Quay" },
    ]);
    expect(changesBetween(before, { ...before, prompt: "x" }, nameOf)).toEqual([]);
  });
});
