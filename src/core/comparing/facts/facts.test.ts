import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { english } from "../test/pairs/english";
import { french } from "../test/pairs/french";
import { further } from "../test/pairs/further";
import { german } from "../test/pairs/german";
import { japanese } from "../test/pairs/japanese";
import type { Pair } from "../test/pairs/pair";
import { spanish } from "../test/pairs/spanish";
import { factKey, factsIn } from "./facts";

const languages: Record<string, readonly Pair[]> = { english, german, french, spanish, japanese };

type Text = readonly [text: string, facts: readonly string[]];

function textsOf(pairs: readonly Pair[]): Text[] {
  return pairs.flatMap(([first, ofFirst, second, ofSecond]): Text[] => [
    [first, ofFirst],
    [second, ofSecond],
  ]);
}

/** How many facts were found of those that there are, and how many of those found there are. */
function measured(texts: readonly Text[]) {
  const counts = { expected: 0, found: 0, right: 0, off: [] as string[] };
  for (const [text, facts] of texts) {
    const found = new Set(factsIn(text).map(factKey));
    const right = facts.filter((fact) => found.has(fact)).length;
    counts.expected += facts.length;
    counts.found += found.size;
    counts.right += right;
    if (right !== facts.length || right !== found.size)
      counts.off.push(`${text} → ${[...found].join(", ")} instead of ${facts.join(", ")}`);
  }
  return { ...counts, recall: counts.right / counts.expected, precision: counts.right / counts.found };
}

function tell(what: string, { recall, precision, expected, off }: ReturnType<typeof measured>): void {
  console.log(`${what}: recall ${recall.toFixed(3)}, precision ${precision.toFixed(3)} over ${expected} facts`);
  if (off.length > 0) console.log(off.join("\n"));
}

describe("facts", () => {
  it("are found in two hundred pairs of texts as a reader wrote them down", () => {
    const all = Object.values(languages).flat();
    expect(all.length).toBeGreaterThanOrEqual(200);
    const found = measured(textsOf(all));
    tell("facts of pairs", found);
    expect(found.recall).toBeGreaterThanOrEqual(0.95);
    expect(found.precision).toBeGreaterThanOrEqual(0.95);
  });

  it.each(Object.entries(languages))("are found in %s by itself", (_name, pairs) => {
    const { recall, precision } = measured(textsOf(pairs));
    expect(recall).toBeGreaterThanOrEqual(0.9);
    expect(precision).toBeGreaterThanOrEqual(0.9);
  });

  it("are found in further texts", () => {
    const found = measured(further);
    tell("facts of further texts", found);
    expect(found.recall).toBeGreaterThanOrEqual(0.95);
    expect(found.precision).toBeGreaterThanOrEqual(0.95);
  });

  it("stand where they are said, whatever Markdown is around them", () => {
    const text = "- **8:10**: four `bicycle` places\n\n```\nat 9:40\n```\n[the 17:30](https://quay.example/11:20)";
    expect(factsIn(text).map(({ value, from, to }) => [value, text.slice(from, to)])).toEqual([
      ["08:10", "8:10"],
      ["4 place", "four `bicycle` places"],
      ["17:30", "17:30"],
    ]);
  });

  it("are about the time or the name that stands nearest in their sentence", () => {
    const facts = factsIn("The 8:10 takes four bicycles, and eight go on the 9:40. Tansy Holm has 2 quays.");
    expect(facts.flatMap(({ value, about }) => (about ? [[value, about]] : []))).toEqual([
      ["4 bicycle", "8:10"],
      ["8 bicycle", "8:10"],
      ["2 quay", "Tansy Holm"],
    ]);
  });

  it("are found in whatever text, in bounds", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", maxLength: 300 }), (text) => {
        for (const { from, to, said } of factsIn(text)) {
          expect(from).toBeLessThan(to);
          expect(text.slice(from, to)).toBe(said);
        }
      }),
    );
  });
});
