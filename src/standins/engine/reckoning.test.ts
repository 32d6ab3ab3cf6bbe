import { describe, expect, it } from "vitest";
import { answer, type Said } from "./reply";

/** The last answer to some messages. */
function lastOf(...messages: string[]): string {
  const said: Said[] = [];
  for (const text of messages) {
    said.push({ by: "visitor", text });
    said.push({ by: "app", text: answer(said, 1).text });
  }
  return said.at(-1)?.text ?? "";
}

describe("reckoning", () => {
  it.each([
    [["What is 2 + 3 * 4?"], /\b14\b/],
    [["What's 7 squared plus 3?"], /\b52\b/],
    [["the square root of 16 times 5"], /\b20\b/],
    [["cube root of 27"], /\b3\b/],
    [["What is the square root of -4?"], /No real number/],
    [["2 to the power of 10"], /\b1024\b/],
    [["What is 1,200 / 4?"], /\b300\b/],
    [["15% of 80", "and of 200?"], /\b30\b/],
    [["What percentage of 48 is 12?"], /25%/],
    [["Reduce 80 by 25%"], /\b60\b/],
    [["How many inches are in a foot?"], /\b12\b/],
    [["Convert 5 kg to pounds", "and in grams?"], /\b5000\b/],
    [["20 celsius in fahrenheit"], /\b68\b/],
    [["How many metres are 3 hours?"], /^(?!.*\d+ metres)/],
    [["Is 91 prime?"], /\bNo.*7 × 13/],
    [["What is 6 * 7?", "double that"], /\b84\b/],
    [["What is 6 * 7?", "show the steps"], /6 × 7 = 42/],
    [["What date is 45 days after 1 May 2026?"], /15 June 2026/],
  ])("%j", (messages, answer) => {
    expect(lastOf(...messages)).toMatch(answer);
  });

  it("goes on after something else was said in between", () => {
    expect(lastOf("What is the square root of 144?", "Thanks", "What did I ask first?", "the same for 81")).toMatch(
      /\b9\b/,
    );
  });
});
