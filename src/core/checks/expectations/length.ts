import { Unreadable } from "../fault";
import { lengthOf, sentencesOf, type Unit, units } from "../measures";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface Length extends Expects {
  kind: "length";
  least?: number;
  most?: number;
  unit: Unit;
}

const singular = units.map((unit) => unit.slice(0, -1));

/** How long the reply is. */
export const length: ExpectationKind<Length, { length: number | null; said: string }> = {
  forms: [
    "at most 5 sentences",
    "at least 20 words",
    "between 1 and 3 paragraphs",
    "more than 100 characters",
    "fewer than 200 tokens",
    "not between 1 and 3 words",
  ],
  read(phrase) {
    const form = phrase.takesOne(["at most", "at least", "between", "not between", "more than", "fewer than"]);
    if (!form) return undefined;
    const first = phrase.number();
    const second = form.endsWith("between") && phrase.takes("and") ? phrase.number() : undefined;
    if (first === undefined || (form.endsWith("between") && second === undefined))
      throw new Unreadable(
        "how many is missing",
        `Write for example: ${form} ${form.endsWith("between") ? "1 and 3" : "5"} sentences.`,
      );
    const named = phrase.takesOne([...units, ...singular]);
    if (!named) throw new Unreadable("what is counted is missing", `Write one of ${units.join(", ")}.`);
    const unit = (named.endsWith("s") ? named : `${named}s`) as Unit;
    if (!Number.isInteger(first) || (second !== undefined && !Number.isInteger(second)))
      throw new Unreadable(`${unit} are counted in whole numbers`, "Write a number without a point.");
    if (second !== undefined && second < first)
      throw new Unreadable(`between ${first} and ${second} there is nothing`, "Write the smaller number first.");
    const of = { kind: "length", unit } as const;
    if (form === "at most") return { ...of, most: first };
    if (form === "at least") return { ...of, least: first };
    if (form === "more than") return { ...of, most: first, not: true };
    if (form === "fewer than") return { ...of, least: first, not: true };
    return { ...of, least: first, most: second, not: form === "not between" || undefined };
  },
  write({ least, most, unit, not }) {
    const counted = (count: number | undefined) => `${count} ${count === 1 ? unit.slice(0, -1) : unit}`;
    if (least !== undefined && most !== undefined) return `${not ? "not " : ""}between ${least} and ${counted(most)}`;
    if (most !== undefined) return `${not ? "more than" : "at most"} ${counted(most)}`;
    return `${not ? "fewer than" : "at least"} ${counted(least)}`;
  },
  judge({ least = 0, most = Number.POSITIVE_INFINITY, unit }, { text, output }) {
    const length = unit === "tokens" ? (output ?? null) : lengthOf(text, unit);
    const isMet = length === null ? undefined : length >= least && length <= most;
    return { isMet, saw: { length, said: excerpt(unit === "sentences" ? sentencesOf(text).join(" ") : text) } };
  },
  tell({ length, said }, { unit }) {
    if (length === null) return "was not counted";
    return `said ${length} ${length === 1 ? unit.slice(0, -1) : unit}: ${inQuotes(said)}`;
  },
};
