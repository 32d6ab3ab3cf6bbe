import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { compilePath, PathError } from "./path";

const document = {
  choices: [{ delta: { content: "Aye" } }, { delta: { content: "No" } }],
  "odd name": { "": 1 },
  list: [10, 20, 30],
};

describe("a path into a JSON document", () => {
  it.each([
    ["$", document],
    ["$.choices[0].delta.content", "Aye"],
    ["$['choices'][1][\"delta\"].content", "No"],
    ["$['odd name']['']", 1],
    ["$.list[-1]", 30],
    ["$.list[*]", 10],
    ["$.choices[9].delta", undefined],
    ["$.list.length", undefined],
    ["$.choices.delta", undefined],
    ["$.constructor", undefined],
  ])("%s finds the first value", (path, value) => {
    expect(compilePath(path).first(document)).toEqual(value);
  });

  it.each([
    ["$.parts[?@.kind == 'text'].words", ["Aye", "and so"]],
    ["$.parts[?@.kind!='text'].words", ["hm"]],
    ['$.parts[?@.n == 2 && @.kind == "thought"].words', ["hm"]],
    ["$.parts[?@.last == true].words", ["and so"]],
    ["$.parts[?@.last].words", ["and so"]],
    ["$.parts[?@.kind == 'picture'].words", []],
  ])("%s finds the elements that a filter lets through", (path, values) => {
    const parts = [
      { kind: "text", words: "Aye" },
      { kind: "thought", words: "hm", n: 2 },
      { kind: "text", words: "and so", last: true },
    ];
    expect(compilePath(path).all({ parts })).toEqual(values);
  });

  it("finds every value under [*], of lists and of objects", () => {
    expect(compilePath("$.choices[*].delta.content").all(document)).toEqual(["Aye", "No"]);
    expect(compilePath("$.*[0]").all({ a: [1], b: [2], c: 3 })).toEqual([1, 2]);
  });

  it.each([
    ["choices", /expected "\$" at the start/],
    ["$.choices[0", /expected "\]" at character 12/],
    ["$.choices[x]", /expected an index, a quoted name, \* or a filter at character 10/],
    ["$.a[?@.b = 1]", /expected ==, !=, <, <=, > or >= at character 10/],
    ["$..deep", /no profile needs descendants \(\.\.\), at character 3/],
    ["$.a[?@.b == 1.2.3]", /1\.2\.3 is no value to compare with/],
    ["$.a[?@.b == 01]", /01 is no value to compare with/],
    ["$.a b", /expected "\." or "\[" at character 4/],
  ])("%s is refused with the place and the reason", (path, reason) => {
    expect(() => compilePath(path)).toThrow(PathError);
    expect(() => compilePath(path)).toThrow(reason);
  });

  it("agrees with a walk by hand on any document", () => {
    const name = fc.string({ unit: "grapheme" });
    fc.assert(
      fc.property(fc.dictionary(name, fc.array(fc.jsonValue(), { maxLength: 3 })), (any) => {
        for (const [name, list] of Object.entries(any))
          list.forEach((value, at) => {
            const quoted = name.replace(/['\\]/g, "\\$&");
            expect(compilePath(`$['${quoted}'][${at}]`).first(any)).toEqual(value);
          });
      }),
    );
  });

  it("never throws on a value of another shape", () => {
    const path = compilePath("$.a[0].b[*]");
    fc.assert(fc.property(fc.anything(), (any) => Array.isArray(path.all(any))));
  });
});
