import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { circleAt, circlesIn } from "./circles";
import { areLeaving, saysGoodbye } from "./goodbye";

/** Talks of a file: a line with a title, then what is said, the two taking turns. */
function talksIn(file: string): { title: string; said: string[] }[] {
  const text = readFileSync(new URL(`./test/${file}`, import.meta.url), "utf8");
  return text
    .trim()
    .split(/\n\n+/)
    .map((block) => {
      const [title = "", ...said] = block.split("\n");
      return { title: title.replace(/^# /, ""), said };
    });
}

/** The highest measure that a talk comes to on its way. */
const highestIn = (said: readonly string[]) =>
  Math.max(...said.map((_, at) => circlesIn(said.slice(0, at + 1)).measure));

describe("talks that are no circles", () => {
  const talks = talksIn("talks.txt");

  it("are forty", () => {
    expect(talks).toHaveLength(40);
    for (const { said } of talks) expect(said.length).toBeGreaterThanOrEqual(8);
  });

  it.each(talks)("$title", ({ said }) => {
    expect(highestIn(said)).toBeLessThan(circleAt);
    for (const at of said.keys()) expect([said[at], areLeaving(said.slice(0, at + 1))]).toEqual([said[at], false]);
  });
});

describe("talks that go in circles", () => {
  it.each(talksIn("circles.txt"))("$title", ({ said }) => {
    expect(circlesIn(said).isCircle).toBe(true);
    // nothing is said of a talk that has barely begun
    expect(circlesIn(said.slice(0, 6)).measure).toBe(0);
  });
});

describe("a talk of long utterances", () => {
  it("is measured by their beginnings, and left at their ends", () => {
    const long = (beginning: string) => `${beginning} ${"and so on, as it was. ".repeat(50_000)}Goodbye.`;
    const said = Array.from({ length: 8 }, (_, at) => long(at % 2 === 0 ? "Ping." : "Pong."));
    expect(circlesIn(said).isCircle).toBe(true);
    expect(areLeaving(said)).toBe(true);
  });
});

describe("taking leave", () => {
  it.each([
    "Goodbye, and come again.",
    "Thank you, that is all. Goodbye!",
    "See you on the 9:40.",
    "Thanks, bye.",
    "Until next time.",
    "**Farewell.**",
    "Have a good crossing!",
    "Danke, auf Wiedersehen.",
    "Merci. Au revoir !",
    "さようなら。",
  ])("is heard in %j", (said) => expect(saysGoodbye(said)).toBe(true));

  it.each([
    "How do I say goodbye in French?",
    'One says "goodbye".',
    "We said goodbye at the quay, and then the fog came in and nobody saw the boat for an hour.",
    "Goodbye to all that: the new pier opens in June, and the old one is taken down by the end of the year for good.",
    "Have you seen the timetable?",
    "Goodbye. Or shall I come along?",
    "",
  ])("is not in %j", (said) => expect(saysGoodbye(said)).toBe(false));

  it("takes two, one after the other", () => {
    expect(areLeaving(["Which boats?", "The 9:40. Goodbye."])).toBe(false);
    expect(areLeaving(["Thank you, goodbye.", "Goodbye, and come again."])).toBe(true);
    expect(areLeaving(["Goodbye."])).toBe(false);
  });
});
