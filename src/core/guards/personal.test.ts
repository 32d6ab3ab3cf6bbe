import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { Finder } from "./finder";
import { foundIn } from "./looking";
import { harmlessTexts, measuredPersonal } from "./measured";
import { type PersonalKind, personalKinds, personalLooked } from "./personal";
import { harmless } from "./test/harmless";
import { personalTexts } from "./test/personal-texts";

function found(kind: PersonalKind, text: string): string[] {
  return foundIn(text, new Finder(personalLooked(kind))).map(({ from, to }) => text.slice(from, to));
}

/** A text with what is personal in it. */
function parted(marked: string): { text: string; holds: string[] } {
  return {
    text: marked.replace(/[⟦⟧]/g, ""),
    holds: [...marked.matchAll(/⟦(.*?)⟧/g)].map((match) => match[1] as string),
  };
}

describe("personal data", () => {
  test.each(personalKinds)("finds each %s whole, and nothing beside it, as often as is told", (kind) => {
    const texts = personalTexts[kind].map(parted);
    const all = texts.flatMap(({ holds }) => holds);
    const misses = texts.flatMap(({ text, holds }) => holds.filter((each) => !found(kind, text).includes(each)));
    const beside = texts.flatMap(({ text, holds }) => found(kind, text).filter((each) => !holds.includes(each)));
    console.info(
      `${kind}: ${all.length - misses.length} of ${all.length} found; missed: ${misses.join(" | ")}; beside: ${beside.join(" | ")}`,
    );
    expect({ found: all.length - misses.length, of: all.length }).toEqual({
      found: measuredPersonal[kind].found,
      of: measuredPersonal[kind].of,
    });
  });

  test.each(personalKinds)("takes as few of 500 harmless texts for one with a %s as is told", (kind) => {
    const alarms = harmless.flatMap((text) => found(kind, text).map((each) => `${each} in “${text}”`));
    console.info(
      `${kind}: ${alarms.length} false alarms in ${harmless.length} texts${alarms.map((each) => `\n  ${each}`).join("")}`,
    );
    expect(harmless).toHaveLength(harmlessTexts);
    expect(alarms.length).toBe(measuredPersonal[kind].falseAlarms);
  });

  test.each(personalKinds)(
    "a quick look at a text never passes over a %s, whatever stands in and around it",
    (kind) => {
      const holders = personalTexts[kind].map(parted).flatMap(({ text }) => [text, text.replace(/(\d)/, "$1\u200b")]);
      const { mayHold, ...slow } = personalLooked(kind);
      fc.assert(
        fc.property(fc.constantFrom(...holders, ...harmless), fc.string({ unit: "grapheme" }), (text, more) => {
          for (const each of [text, `${more} ${text}`, `${text}${more}`])
            if (foundIn(each, new Finder(slow)).length > 0) expect([each, mayHold?.(each)]).toEqual([each, true]);
        }),
        { numRuns: 300 },
      );
    },
  );
});
