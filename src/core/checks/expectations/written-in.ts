import { Unreadable } from "../fault";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

/** Scripts, by the Unicode names of those that they are written with (UAX 24). */
const scripts: Record<string, readonly string[]> = {
  Latin: ["Latin"],
  Greek: ["Greek"],
  Cyrillic: ["Cyrillic"],
  Arabic: ["Arabic"],
  Hebrew: ["Hebrew"],
  Devanagari: ["Devanagari"],
  Thai: ["Thai"],
  Chinese: ["Han"],
  Japanese: ["Hiragana", "Katakana", "Han"],
  Korean: ["Hangul"],
};

interface WrittenIn extends Expects {
  kind: "written-in";
  script: string;
}

/** Letters of a script, of all letters, that make a text written in it. */
const share = 0.6;

/** The script of most letters of the reply; a name in another does not change it. */
export const writtenIn: ExpectationKind<WrittenIn, { share: number; said: string }> = {
  forms: ["is written in Latin", "is not written in Cyrillic"],
  read(phrase) {
    const form = phrase.takesOne(["is written in", "is not written in"]);
    if (!form) return undefined;
    const script = phrase.takesOne(Object.keys(scripts));
    if (!script)
      throw new Unreadable("there is no such script here", `Write one of ${Object.keys(scripts).join(", ")}.`);
    return { kind: "written-in", script, not: form === "is not written in" || undefined };
  },
  write: ({ script, not }) => `${not ? "is not written in" : "is written in"} ${script}`,
  judge({ script }, { text }) {
    const letters = text.match(/\p{L}/gu) ?? [];
    const own = new RegExp(`[${(scripts[script] ?? []).map((each) => `\\p{Script=${each}}`).join("")}]`, "u");
    const of = letters.length === 0 ? 0 : letters.filter((letter) => own.test(letter)).length / letters.length;
    return { isMet: of >= share, saw: { share: of, said: excerpt(text) } };
  },
  tell: ({ share: of, said }, { script }) =>
    `has ${Math.round(of * 100)}% of its letters in ${script}: ${inQuotes(said)}`,
};
