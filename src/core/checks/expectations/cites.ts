import { inQuotes } from "../phrase";
import type { Seen, SeenPassage } from "../seen";
import type { ExpectationKind, Expects } from "./expectation";

interface OfPassage extends Expects {
  /** Words of the passage: its document, its heading, its page, or of its text. */
  of: string;
}

/** What became of the passage that was meant: the best that was found of those. */
interface SawPassage {
  fate: "never-found" | "left-out" | "not-used" | "used";
  /** Where it stood among those that were found, from 1. */
  rank?: number;
  mark?: string;
  /** The kind of the reason for which it was left out. */
  reason?: string;
  /** What was cited instead. */
  cited: string[];
}

/** The reply cites a passage. */
export const cites: ExpectationKind<OfPassage & { kind: "cites" }, SawPassage> = {
  forms: ['cites "Luggage and bicycles"', 'cites "page 47"', 'does not cite "Timetable"'],
  read(phrase) {
    const form = phrase.takesOne(["cites", "does not cite"]);
    if (!form) return undefined;
    return { kind: "cites", of: phrase.text1("what it cites"), not: form === "does not cite" || undefined };
  },
  write: ({ of, not }) => `${not ? "does not cite" : "cites"} ${inQuotes(of)}`,
  judge({ of }, seen) {
    const saw = sawOf(of, seen);
    return { isMet: saw.fate === "used", saw };
  },
  tell: told,
};

/** A passage went along with the message. */
export const carried: ExpectationKind<OfPassage & { kind: "carried" }, SawPassage> = {
  forms: ['was given "Luggage and bicycles"', 'was not given "Timetable"'],
  read(phrase) {
    const form = phrase.takesOne(["was given", "was not given"]);
    if (!form) return undefined;
    return { kind: "carried", of: phrase.text1("what it was given"), not: form === "was not given" || undefined };
  },
  write: ({ of, not }) => `${not ? "was not given" : "was given"} ${inQuotes(of)}`,
  judge({ of }, seen) {
    const saw = sawOf(of, seen);
    return { isMet: saw.fate === "used" || saw.fate === "not-used", saw };
  },
  tell: told,
};

const fates = ["used", "not-used", "left-out", "never-found"] as const;

function sawOf(of: string, { passages }: Pick<Seen, "passages">): SawPassage {
  const cited = passages.filter(({ isCited }) => isCited).map(({ where }) => where);
  const all = passages.filter((passage) => isMeant(of, passage)).map((passage) => ({ passage, fate: fateOf(passage) }));
  const [best] = all.sort((a, b) => fates.indexOf(a.fate) - fates.indexOf(b.fate) || a.passage.rank - b.passage.rank);
  if (!best) return { fate: "never-found", cited };
  const { rank, mark, reason } = best.passage;
  return {
    fate: best.fate,
    rank,
    cited,
    ...(mark === "" ? {} : { mark }),
    ...(reason === undefined ? {} : { reason }),
  };
}

function fateOf({ mark, isCited }: SeenPassage): SawPassage["fate"] {
  if (mark === "") return "left-out";
  return isCited ? "used" : "not-used";
}

/** Whether words name a passage: by where it stands, or by what it says. */
function isMeant(of: string, { where, text }: SeenPassage): boolean {
  return plain(where).includes(plain(of)) || plain(text).includes(plain(of));
}

function plain(text: string): string {
  return ` ${text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim()} `;
}

function told({ fate, rank, mark, reason, cited }: SawPassage, { of }: OfPassage): string {
  const instead = cited.length === 0 ? "cites nothing" : `cites ${cited.join("; ")}`;
  switch (fate) {
    case "never-found":
      return `never found ${inQuotes(of)}, and ${instead}`;
    case "left-out":
      return `found ${inQuotes(of)} as number ${rank}, and left it out (${reason}); it ${instead}`;
    case "not-used":
      return `was given ${inQuotes(of)} as [${mark}], and did not use it; it ${instead}`;
    case "used":
      return `was given ${inQuotes(of)} as [${mark}], and cites it`;
  }
}
