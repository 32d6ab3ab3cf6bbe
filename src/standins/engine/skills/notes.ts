import { type Note, notes } from "../known/known";
import type { Scene, Skill } from "../scene";
import { voiced } from "../voice";

interface Wanted {
  /** The name of the subject. */
  note: string;
  asks: "what" | "why" | "example" | "more" | "simple";
}

const explaining =
  /\b(?:what(?:'s| is| are| was| were| does| do)?|explain|describe|tell me|how (?:do|does|did|is|are|can)|why|who|define|meaning|difference|about|talk)\b/i;

/** Short notes on general subjects, with the reason, an example and more of each. */
export const subjects: Skill<Wanted> = {
  name: "a subject in general",
  isWorded: true,
  about: /\b(?:science|nature|general|school|teach\w*|learn\w*|explain\w*|subjects?)\b/i,
  read(message, before) {
    const text = message.trim();
    const found = notes.find(({ called }) => called.test(text));
    if (found && explaining.test(text))
      return { note: found.name, asks: asksOf(text) ?? (/^why\b/i.test(text) ? "why" : "what") };
    if (!before || (text.split(/\s+/).length > 9 && !/\blike i('m| am)\b/i.test(text))) return undefined;
    const asks = asksOf(text) ?? (/^(?:and |but )?why\b/i.test(text) ? "why" : undefined);
    return asks && { ...before, asks };
  },
  say({ note: name, asks }, scene) {
    const note = notes.find((each) => each.name === name) as Note;
    return voiced(said(note, asks, scene), scene);
  },
};

function asksOf(text: string): Wanted["asks"] | undefined {
  if (/\bexamples?\b|\bfor instance\b/i.test(text)) return "example";
  if (/\b(?:tell me )?more\b|\bgo on\b|\bin (?:more )?detail\b|\belaborate\b|\bwhat else\b/i.test(text)) return "more";
  if (/\b(?:simply|simpler|simple (?:words|terms)|like i(?:'m| am)|for a child|to a child|easier)\b/i.test(text))
    return "simple";
  return undefined;
}

function said({ what, why, example, more }: Note, asks: Wanted["asks"], { choices, isBrief }: Scene): string {
  switch (asks) {
    case "why":
      return choices.one([why, `The reason: ${lower(why)}`, `In short: ${lower(why)}`]);
    case "example":
      return choices.one([example, `For instance: ${lower(example)}`, `Take this: ${lower(example)}`]);
    case "more":
      return choices.one([more, `There is more to it: ${lower(more)}`, `One thing beside that: ${lower(more)}`]);
    case "simple":
      return choices.one([`In simple words: ${lower(what)} ${example}`, `Put simply, ${lower(what)} ${example}`]);
    case "what": {
      const lead = choices.one(["", "In short: ", "Put briefly: ", "Simply said: "]);
      return `${lead}${lead ? lower(what) : what} ${why}${isBrief ? "" : ` ${example}`}`;
    }
  }
}

/** A sentence as it goes on after a colon. */
function lower(text: string): string {
  return /^(?:I|[A-Z]{2,})\b/.test(text) ? text : text.charAt(0).toLowerCase() + text.slice(1);
}
