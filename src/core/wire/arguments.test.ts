import fc from "fast-check";
import { quote } from "shell-quote";
import { describe, expect, it } from "vitest";
import { argumentsIn, NotArguments } from "./arguments";

describe("a program and its arguments", () => {
  it.each([
    ["cat token.txt", ["cat", "token.txt"]],
    ["  print-token   --for 'the desk'  ", ["print-token", "--for", "the desk"]],
    ['print "a \\"b\\"" c\\ d', ["print", 'a "b"', "c d"]],
    ["print '$HOME | x'", ["print", "$HOME | x"]],
    ["print ''", ["print", ""]],
  ])("are the words of %j", (text, words) => {
    expect(argumentsIn(text)).toEqual(words);
  });

  it.each([
    ["cat a | head", "|"],
    ["cat a && rm b", "&&"],
    ["cat < a", "<"],
    ["cat *.txt", "*.txt"],
    ["cat a # the token", "#"],
    ["echo $REEDBED_KEY", "$REEDBED_KEY"],
    ["", "no program"],
  ])("are not %j, which says why", (text, why) => {
    expect(() => argumentsIn(text)).toThrow(NotArguments);
    expect(() => argumentsIn(text)).toThrow(why);
  });

  it("come back from a text in which each is quoted, whatever they are", () => {
    const word = fc.string({ unit: "grapheme-ascii", minLength: 1 });
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 5 }), (words) => {
        const text = words.map((each) => `'${each.replaceAll("'", "'\\''")}'`).join(" ");
        expect(argumentsIn(text)).toEqual(words);
        expect(quote(words)).not.toBe("");
      }),
    );
  });
});
