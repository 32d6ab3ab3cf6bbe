import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { Finder } from "./finder";
import { foundIn, united } from "./looking";
import { wordsLooked } from "./words";

function found(words: readonly string[], text: string): string[] {
  return foundIn(text, new Finder(wordsLooked(words))).map(({ from, to }) => text.slice(from, to));
}

describe("words and phrases", () => {
  test.each([
    [["cat", "catalogue", "cats"], "A cat, two cats, a Catalogue; concat cat_", ["cat", "cats", "Catalogue"]],
    [["café au lait"], "cafe\u0301  au\n LAIT, café-au-lait", ["cafe\u0301  au\n LAIT"]],
    [["c++", "#tag"], "In C++ and #tag, c+, tag", ["C++", "#tag"]],
    [["night ferry", "night"], "The night ferry, by night", ["night ferry", "night"]],
    [["secret"], "s\u200becret ｓｅｃｒｅｔ secre", ["s\u200becret", "ｓｅｃｒｅｔ"]],
    [["\u00ad", " "], "anything", []],
  ])("%j in %j are %j", (words, text, expected) => {
    expect(found(words, text)).toEqual(expected);
  });

  test("are those that a plain search between borders finds, whatever they have in common", () => {
    const letters = fc.constantFrom("a", "b", " ");
    const word = fc.string({ unit: fc.constantFrom("a", "b"), minLength: 1, maxLength: 3 });
    const phrase = fc.array(word, { minLength: 1, maxLength: 2 }).map((parts) => parts.join(" "));
    fc.assert(
      fc.property(fc.array(phrase, { minLength: 1, maxLength: 5 }), fc.string({ unit: letters }), (phrases, text) => {
        const all = phrases.flatMap((each) => {
          const pattern = new RegExp(`(?=(\\b${each.replace(" ", " {1,20}")}\\b))`, "g");
          return [...text.matchAll(pattern)].map(({ index, 1: match = "" }) => ({
            from: index,
            to: index + match.length,
          }));
        });
        expect(foundIn(text, new Finder(wordsLooked(phrases)))).toEqual(united(all));
      }),
    );
  });
});
