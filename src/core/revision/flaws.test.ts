import { describe, expect, it } from "vitest";
import type { Content } from "./content";
import { flawsIn } from "./flaws";

const content: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { maxOutput: 800 },
  memory: { kind: "everything" },
};
const found = (more: Partial<Content>, window = 8_000) => flawsIn({ ...content, ...more }, window);

describe("the flaws of a prompt", () => {
  it("find nothing wrong with a plain one", () => {
    expect(found({ prompt: "At {{desk}}, {{today}}.", samples: { desk: "Mill Quay" } })).toEqual([]);
  });

  it("name a variable without a value, unless its block is off, and braces that hold no name", () => {
    const prompt = "[[a]]\nAt {{desk}}.\n[[end]]\nOn {{Today}}.";
    expect(found({ prompt })).toEqual([
      { kind: "no-value", name: "desk" },
      { kind: "no-variable", text: "{{Today}}" },
    ]);
    expect(found({ prompt, off: ["a"] })).toEqual([{ kind: "no-variable", text: "{{Today}}" }]);
  });

  it("name a block that is empty, and one that is switched off and not there", () => {
    expect(found({ prompt: "[[a]]\n \n[[b]]\nText", off: ["c"] })).toEqual([
      { kind: "empty-block", block: "a" },
      { kind: "no-block", block: "c" },
    ]);
  });

  it("name limits that leave each other no room", () => {
    expect(found({}, 800)).toEqual([{ kind: "no-room", maxOutput: 800, window: 800 }]);
    expect(found({ memory: { kind: "fitting", tokens: 500 } }, 1_024)).toEqual([
      { kind: "budget-over-window", budget: 500, room: 224 },
    ]);
  });

  it("name a prompt that is too long by itself, and by how much", () => {
    expect(flawsIn(content, 1_000, 200)).toEqual([]);
    expect(flawsIn(content, 1_000, 260)).toEqual([{ kind: "too-long", by: 60 }]);
  });

  it("warn of the time of day before the rest of a prompt, not after it, nor of the date", () => {
    const rules = "Answer passengers from the timetable. ".repeat(8);
    expect(found({ prompt: `It is {{time}}. ${rules}` })).toEqual([
      { kind: "clock-early", tokens: expect.any(Number) },
    ]);
    expect(found({ prompt: `${rules} It is {{time}}.` })).toEqual([]);
    expect(found({ prompt: `It is {{today}}. ${rules}` })).toEqual([]);
  });
});
