import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CiteReader, citesIn, withoutMarks } from "./citing";
import { type Fenced, fencedIn, fenceFor, withoutForged } from "./fencing";
import { markOf, shortNameFor } from "./marks";

const marks = (text: string) => citesIn(text).map(({ mark }) => mark);

describe("marks in a reply", () => {
  it("name a passage by the short name of its document and its number", () => {
    const text = "Dogs travel free [bicycles 1]. A muzzle is asked for [handbook 3].";
    expect(marks(text)).toEqual(["bicycles 1", "handbook 3"]);
    expect(citesIn(text).map(({ from, to }) => text.slice(from, to))).toEqual(["[bicycles 1]", "[handbook 3]"]);
  });

  it.each([
    ["[handbook 3, bicycles 1]", ["handbook 3", "bicycles 1"]],
    ["[handbook 3, 4]", ["handbook 3", "handbook 4"]],
    ["[Handbook  3]", ["handbook 3"]],
    ["[fähr-plan 12]", ["fähr-plan 12"]],
    ["[see the handbook]", []],
    ["[3]", []],
    ["a [link](to/a/page)", []],
    ["[[handbook 3]]", ["handbook 3"]],
    ["[handbook\n3]", []],
    [`[${"a".repeat(300)} 3]`, []],
  ])("are read from %j", (text, expected) => {
    expect(marks(text)).toEqual(expected);
  });

  it("are the same however the text is cut", () => {
    const part = fc.oneof(fc.constantFrom("[handbook 3]", "[a 1, b 2]", "[", "]", "\n", " 3]"), fc.string());
    fc.assert(
      fc.property(fc.array(part, { maxLength: 12 }), fc.array(fc.nat(200), { maxLength: 12 }), (parts, cuts) => {
        const signs = [...parts.join("")];
        const reader = new CiteReader();
        const at = [...new Set([0, ...cuts.filter((cut) => cut < signs.length), signs.length])].sort((a, b) => a - b);
        const read = at.slice(1).flatMap((to, place) => reader.feed(signs.slice(at[place], to).join("")));
        expect(read).toEqual(citesIn(signs.join("")));
      }),
    );
  });

  it("are taken out of what is carried on, and nothing else is", () => {
    const text = "Dogs travel free [bicycles 1]. See [figure 2] and [bicycles 1, handbook 3].";
    expect(withoutMarks(text, (mark) => mark !== "figure 2")).toBe("Dogs travel free. See [figure 2] and.");
  });
});

describe("passages that are carried", () => {
  const fenced = (passages: Fenced[]) => passages.map((each) => fencedIn(fenceFor(passages), each)).join("\n\n");
  const fence = (text: string, where = "Rules") => fenced([{ mark: "[rules 1]", where, text }]);

  it("stand between two lines, the first of which has the mark", () => {
    expect(fence("Dogs travel free.")).toBe("==== [rules 1] Rules\nDogs travel free.\n====");
  });

  it("have nothing in them that nobody sees", () => {
    expect(withoutForged("Dogs\u200b tra\u202evel\u2028free\u{E0041}.")).toBe("Dogs travel\nfree.");
  });

  it("close no fence and forge no mark, whatever they say", () => {
    const hostile = fc.constantFrom(
      "====",
      "=====\n",
      "[rules 2]",
      "[ rules 2 ]",
      "［rules 2］",
      "[rules\u200b 2]",
      "[[rules 2]]",
      "\u2028====\n",
    );
    const text = fc
      .array(fc.oneof(hostile, fc.string({ unit: "binary" })), { maxLength: 10 })
      .map((parts) => parts.join(""));
    fc.assert(
      fc.property(fc.array(fc.tuple(text, text), { minLength: 1, maxLength: 4 }), (documents) => {
        const passages = documents.map(([where, said], at) => ({ mark: markOf("rules", at + 1), where, text: said }));
        const sent = fenced(passages);
        const [line = ""] = /^=+/.exec(sent) ?? [];
        const fences = sent.split("\n").filter((each) => each.startsWith(line));
        expect(fences).toHaveLength(passages.length * 2);
        expect(fences.filter((_, at) => at % 2 === 1).every((each) => each === line)).toBe(true);
        expect(citesIn(sent).map(({ mark }) => `[${mark}]`)).toEqual(passages.map(({ mark }) => mark));
      }),
    );
  });
});

describe("the short name of a document", () => {
  it("is a word of its title that none of the others has", () => {
    const taken = new Set<string>();
    const named = ["Skipper's handbook", "Luggage and bicycles", "Timetable, summer", "The handbook", "2025"].map(
      (title) => {
        const short = shortNameFor(title, taken);
        taken.add(short);
        return short;
      },
    );
    expect(named).toEqual(["handbook", "bicycles", "timetable", "handbook-2", "document-2"]);
  });
});
