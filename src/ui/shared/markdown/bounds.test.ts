import { describe, expect, it } from "vitest";
import { tooMuch } from "./bounds";

describe("what is too much to be read as Markdown", () => {
  it.each([
    ["it is nested too deep", ">".repeat(100)],
    ["it is nested too deep", `${" ".repeat(60)}- item`],
    ["it has too many marks", "*_ ".repeat(2_000)],
    ["it has a word without end", "x".repeat(3_000)],
    ["it has too many columns", `|${" a |".repeat(200)}`],
    ["it is too long", "word ".repeat(5_000)],
  ])("is said: %s", (why, text) => {
    expect(tooMuch(text)).toBe(why);
  });

  it("is not what people write", () => {
    expect(
      tooMuch("# Boats\n\n- **9:40** to *Brindle*\n  - takes `bicycles`\n\n| a | b |\n| - | - |\n| 1 | 2 |"),
    ).toBeUndefined();
  });
});
