import { describe, expect, it } from "vitest";
import { line } from "../context/test/line";
import { askForQuestion, questionFrom } from "./self-contained";

describe("a message that is understood only after what was said before", () => {
  it("is handed to a model with that", () => {
    const text = askForQuestion(line("When does the boat to Tansy Holm leave?", "At 9:40."), "And on Sunday?");
    expect(text).toMatch(/^Rewrite the visitor's last message/);
    expect(text).toContain("Visitor: When does the boat to Tansy Holm leave?\n\nApp: At 9:40.");
    expect(text.endsWith("The last message:\n\nAnd on Sunday?")).toBe(true);
  });

  it.each([
    ["When does the boat to Tansy Holm leave on Sunday?", "When does the boat to Tansy Holm leave on Sunday?"],
    ['Question: "Does it go on Sunday?"\nI hope that this helps.', "Does it go on Sunday?"],
    [" \n", "And on Sunday?"],
    ["x".repeat(5_000), "x".repeat(600)],
  ])("is a question of bounded length in %j, or stays what it was", (answer, question) => {
    expect(questionFrom(answer, "And on Sunday?")).toBe(question);
  });
});
