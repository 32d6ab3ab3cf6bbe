import { describe, expect, it } from "vitest";
import { compilePath, PathError } from "./path";

/** The examples of RFC 9535 (https://www.rfc-editor.org/rfc/rfc9535), by its sections, with other names in them. */
const book = [
  { category: "reference", author: "Odile", title: "Tides", price: 8.95 },
  { category: "fiction", author: "Marit", title: "Fog", price: 12.99 },
  { category: "fiction", author: "Ada", title: "Quays", isbn: "0-553", price: 8.99 },
  { category: "fiction", author: "Bo", title: "Ropes", isbn: "0-395", price: 22.99 },
];
const store = { store: { book, bicycle: { color: "red", price: 399 } } };
const names = { o: { "j j": { "k.k": 3 } }, "'": { "@": 2 } };
const wildcards = { o: { j: 1, k: 2 }, a: [5, 3] };
const filters = {
  a: [3, 5, 1, 2, 4, 6, { b: "j" }, { b: "k" }, { b: {} }, { b: "kilo" }],
  o: { p: 1, q: 2, r: 3, s: 5, t: { u: 6 } },
  e: "f",
};
const nulls = { a: null, b: [null], c: [{}], null: 1 };

const spoken: [section: string, document: unknown, path: string, found: unknown[]][] = [
  ["1.5", store, "$.store.book[*].author", ["Odile", "Marit", "Ada", "Bo"]],
  ["1.5", store, "$.store.book[2].title", ["Quays"]],
  ["1.5", store, "$.store.book[-1].title", ["Ropes"]],
  ["1.5", store, "$.store.book[?@.isbn].title", ["Quays", "Ropes"]],
  ["1.5", store, "$['store']['bicycle']['color']", ["red"]],
  ["2.2.3", { k: "v" }, "$", [{ k: "v" }]],
  ["2.3.1.3", names, "$.o['j j']", [{ "k.k": 3 }]],
  ["2.3.1.3", names, "$.o['j j']['k.k']", [3]],
  ["2.3.1.3", names, '$.o["j j"]["k.k"]', [3]],
  ["2.3.1.3", names, `$["'"]["@"]`, [2]],
  ["2.3.2.3", wildcards, "$[*]", [wildcards.o, wildcards.a]],
  ["2.3.2.3", wildcards, "$.o[*]", [1, 2]],
  ["2.3.2.3", wildcards, "$.a[*]", [5, 3]],
  ["2.3.3.3", ["a", "b"], "$[1]", ["b"]],
  ["2.3.3.3", ["a", "b"], "$[-2]", ["a"]],
  ["2.3.3.3", ["a", "b"], "$[2]", []],
  ["2.3.3.3", ["a", "b"], "$[-3]", []],
  ["2.3.5.3", filters, "$.a[?@.b == 'kilo']", [{ b: "kilo" }]],
  ["2.3.5.3", filters, "$.a[?@.b]", [{ b: "j" }, { b: "k" }, { b: {} }, { b: "kilo" }]],
  ["2.3.5.3", filters, "$.o[?@.u]", [{ u: 6 }]],
  ["2.3.5.3", filters, "$.a[?@.b == 'j' || @.b == 'k']", [{ b: "j" }, { b: "k" }]],
  ["2.3.5.3", filters, "$.a[?(@.b == 'j')]", [{ b: "j" }]],
  ["2.3.5.3", filters, "$.a[?@ > 3.5]", [5, 4, 6]],
  ["2.3.5.3", filters, "$.a[?@.b >= 'k']", [{ b: "k" }, { b: "kilo" }]],
  ["2.3.5.3", filters, "$.o[?@ > 1 && @ < 4]", [2, 3]],
  ["2.3.5.3", filters, "$.o[?!@.u && @ != 1]", [2, 3, 5]],
  ["2.3.5.3", filters, "$.a[?@ == $.a[0]]", [3]],
  ["2.3.5.3", filters, "$.a[?@.b == $.x]", [3, 5, 1, 2, 4, 6]],
  ["2.3.5.3", filters, "$.o[?!(@ == 1 || @ == 2)]", [3, 5, { u: 6 }]],
  ["2.3.5.3", { a: [{ b: [1] }, { b: [2] }], c: [2] }, "$.a[?@.b == $.c].b[0]", [2]],
  ["2.3.5.3", { a: [{ "x]": { y: "it's ]" } }, {}] }, "$.a[?@['x]'].y == 'it\\'s ]']['x]'].y", ["it's ]"]],
  ["2.3.5.3", { a: [{ b: [{ c: 1 }] }, { b: [{}] }] }, "$.a[?@.b[?@.c]].b[0].c", [1]],
  ["2.3.5.3", { a: [1e3, 1, -0] }, "$.a[?@ == 1E3 || @ == -0]", [1000, -0]],
  ["2.3.1.2", { "a\nb": 1 }, "$['a\\nb']", [1]],
  ["2.3.1.2", { "\u{1F6B2}é": 1 }, '$["\\ud83d\\udeb2\\u00e9"]', [1]],
  ["2.3.1.2", { 'a"/\\': 1 }, '$["a\\"\\/\\\\"]', [1]],
  ["2.3.1.2", { "a'": 1 }, "$['a\\'']", [1]],
  ["2.3.1.2", { "\b\f\r\t": 1 }, '$["\\b\\f\\r\\t"]', [1]],
  ["2.5.1", { "→x": [{ ünd: 1 }] }, "$ .→x\n[ 0 ] ['ünd']", [1]],
  ["2.1.1", { a: [{ b: 1 }] }, "$.a[ ?  @.b  ==  1  ].b", [1]],
  ["2.6.1", nulls, "$.a", [null]],
  ["2.6.1", nulls, "$.a[0]", []],
  ["2.6.1", nulls, "$.a.d", []],
  ["2.6.1", nulls, "$.b[0]", [null]],
  ["2.6.1", nulls, "$.b[*]", [null]],
  ["2.6.1", nulls, "$.c[?@.d == null]", []],
  ["2.6.1", nulls, "$.null", [1]],
];

/** What the standard has and profiles do without: refused, and never read as something else. */
const unspoken = [
  "$..author",
  "$.store.book[0:2]",
  "$.store.book[::2]",
  "$.store.book[0,1]",
  "$['a','b']",
  "$.a[?length(@.b) > 1]",
  "$.a[?match(@.b, 'k.*')]",
];

/** What the standard refuses (2.1.1, 2.3.1, 2.3.3). */
const malformed = [
  "",
  "a",
  "$.",
  "$ .",
  "$[]",
  "$[ ]",
  "$.1a",
  "$[01]",
  "$[-0]",
  "$[1.0]",
  "$['a]",
  "$.a.",
  "$[*",
  "@@",
  "$.a[?]",
  " $.a",
  "$.a ",
  "$. a",
  "$['a\\x']",
  '$["a\\\'"]',
  "$['a\\u12']",
  "$['\\ud83d']",
  "$['a\nb']",
  "$[9007199254740992]",
  "$.a[?@.b == 01]",
  "$.a[?@.b == 'x]",
  "$.a[?(@.b]",
  "$.a[?@.b &&]",
  "$.a[?@.b == @.c[*]]",
  "$.a[?'x']",
  "$.a[?!'x' == @.b]",
  "$.a[?@.b === 1]",
  "$.a[?@.b = 1]",
];

describe("the part of JSONPath that profiles speak", () => {
  it.each(spoken)("section %s: of %j, %s finds what the standard says", (_section, document, path, found) => {
    const compiled = compilePath(path);
    expect(compiled.all(document)).toEqual(found);
    expect(compiled.first(document)).toEqual(found[0]);
    const read = (place: readonly (string | number)[]) =>
      place.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)[step], document);
    expect(compiled.places(document).map(read)).toEqual(found);
  });

  it.each(unspoken)("refuses %s, which the standard has and no profile needs", (path) => {
    expect(() => compilePath(path)).toThrow(PathError);
  });

  it.each(malformed)("refuses %j, which is none", (path) => {
    expect(() => compilePath(path)).toThrow(PathError);
  });
});
