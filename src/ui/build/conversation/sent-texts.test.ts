import { describe, expect, it } from "vitest";
import { keepSent, sentTexts } from "./sent-texts";

function memory(held: Record<string, string> = {}) {
  return {
    getItem: (name: string) => held[name] ?? null,
    setItem: (name: string, text: string) => {
      held[name] = text;
    },
  };
}

describe("what was sent", () => {
  it("is recalled the last first, each text once, and no more than 30 of them", () => {
    const keep = memory();
    for (let at = 1; at <= 40; at += 1) keepSent(keep, "a", `text ${at}`);
    keepSent(keep, "a", "text 12");
    const texts = sentTexts(keep, "a");
    expect([texts.length, texts[0], texts[1], texts.filter((text) => text === "text 12").length]).toEqual([
      30,
      "text 12",
      "text 40",
      1,
    ]);
    expect(sentTexts(keep, "b")).toEqual([]);
  });

  it("is nothing where something else stands there, or it is too long to be kept", () => {
    expect(sentTexts(memory({ a: "{" }), "a")).toEqual([]);
    expect(sentTexts(memory({ a: '{"a":1}' }), "a")).toEqual([]);
    const keep = memory();
    keepSent(keep, "a", "x".repeat(5_000));
    expect(sentTexts(keep, "a")).toEqual([]);
  });
});
