import { describe, expect, it } from "vitest";
import { extentOf } from "./extent";

describe("the extent of a text", () => {
  it.each([
    ["", { characters: 0, words: 0, paragraphs: 0 }],
    ["The boat runs.", { characters: 14, words: 3, paragraphs: 1 }],
    ["One.\n\nTwo,\nthree.\n \n", { characters: 20, words: 3, paragraphs: 2 }],
    ["⛴️ 渡し船は九時に出ます。", { characters: 14, words: 6, paragraphs: 1 }],
  ])("%j", (text, extent) => {
    const { words, ...rest } = extentOf(text);
    expect(rest).toEqual({ characters: extent.characters, paragraphs: extent.paragraphs });
    // how a script without spaces is parted into words depends on the dictionary
    expect(Math.abs(words - extent.words)).toBeLessThanOrEqual(text.includes("渡") ? 3 : 0);
  });
});
