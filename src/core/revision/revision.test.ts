import { describe, expect, it } from "vitest";
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
