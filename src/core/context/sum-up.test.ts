import { describe, expect, it } from "vitest";
import { uncalibrated } from "../tokens/calibration";
import { askForSummary, mostOfSummary, recipeOf, usualSummaryPrompt } from "./sum-up";
import { line, pinnedIn, plainContent } from "./test/line";

const turnsOf = (count: number, words = 4) =>
  pinnedIn(
    line(...Array.from({ length: count }, (_, at) => [`Question ${at + 1}?`, "word ".repeat(words).trim()]).flat()),
    Array.from({ length: count }, (_, at) => at + 1),
  );
const asked = (more: Partial<Parameters<typeof askForSummary>[0]>) =>
  askForSummary({
    prompt: "Sum up.",
    before: null,
    turns: turnsOf(3),
    window: 4_000,
    calibration: uncalibrated,
    ...more,
  });

describe("what is asked for a summary", () => {
  it("holds the prompt, what was summed up before, and the turns", () => {
    expect(asked({ before: "The visitor is Marit.", turns: turnsOf(1) })).toMatchObject({
      count: 1,
      text: "Sum up.\n\nWhat was said before that, in short:\n\nThe visitor is Marit.\n\nWhat was said before:\n\nVisitor: Question 1?\n\nApp: word word word word",
    });
  });

  it("holds as many turns as there is room for beside the summary, and no more than the window has", () => {
    for (const window of [120, 300, 900]) {
      const some = asked({ turns: turnsOf(60), window });
      expect(some?.count).toBeGreaterThan(0);
      expect(some?.tokens).toBeLessThanOrEqual(window - mostOfSummary(window));
      expect(some?.text).toContain(`Question ${some?.count}?`);
      expect(some?.text).not.toContain(`Question ${(some?.count ?? 0) + 1}?`);
    }
    expect(asked({ turns: turnsOf(60), window: 900 })?.count).toBeGreaterThan(
      asked({ turns: turnsOf(60), window: 300 })?.count ?? 0,
    );
  });

  it("holds a turn that has no room by itself shortened, and nothing where not even that fits", () => {
    const long = asked({ turns: turnsOf(2, 2_000), window: 400 });
    expect(long).toMatchObject({ count: 1 });
    expect(long?.text).toMatch(/ …$/);
    expect(long?.tokens).toBeLessThanOrEqual(300);
    expect(asked({ turns: turnsOf(1, 2_000), window: 20 })).toBeUndefined();
  });
});

describe("how a summary is made", () => {
  it("is the same for the same model and prompt, however these are written", () => {
    const memory = { kind: "summary", turns: 4 } as const;
    const of = (more: object, content = plainContent) => recipeOf({ ...content, memory: { ...memory, ...more } });
    expect(of({})).toBe(of({ by: { provider: "p", model: "m" }, prompt: usualSummaryPrompt }));
    expect(of({})).toBe(of({ turns: 9 }));
    expect(of({ prompt: "Shorter." })).not.toBe(of({}));
    expect(of({}, { ...plainContent, model: "n" })).not.toBe(of({}));
    expect(recipeOf(plainContent)).toBeUndefined();
  });
});
