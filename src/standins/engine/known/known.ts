import dishesFile from "./dishes.json";
import notesFile from "./notes.json";
import programsFile from "./programs.json";

/** What the engine knows is data: dishes, subjects, programs and jokes, each with the pattern by which it is called. */
interface Called {
  /** What a message calls it, whatever the case of its letters. */
  called: RegExp;
}

/** A dish: what goes in, what is done, and what may stand in for an ingredient. All for four. */
export interface Dish extends Called {
  name: string;
  ingredients: [amount: string, what: string][];
  /** Steps; `{eggs}` names an ingredient, so that a step goes on with what stands in for it, or goes without. */
  steps: string[];
}

/** What is known of a subject: what it is, why it is so, an example, and one thing more. */
export interface Note extends Called {
  name: string;
  /** The field that it belongs to, as a prompt may call it. */
  field: "science" | "nature" | "technology" | "everyday" | "society" | "arts";
  what: string;
  why: string;
  example: string;
  more: string;
}

/** The languages in which a program can be given. */
export const languages = ["python", "javascript", "bash"] as const;
export type CodeLanguage = (typeof languages)[number];

/** A small program in each language, with what its example prints. */
export interface Program extends Called {
  does: string;
  code: Record<CodeLanguage, string>;
  prints: string;
  /** Why it is done in this way. */
  why: string;
}

export const dishes = known<Dish>(dishesFile.dishes);
export const notes = known<Note>(notesFile);
export const programs = known<Program>(programsFile);

/** What takes the place of an ingredient that is not wanted; nothing where it is left out. */
export const substitutes = dishesFile.substitutes as unknown as Record<string, [amount: string, what: string]>;

function known<K extends Called>(file: readonly object[]): readonly K[] {
  return (file as readonly (Omit<K, "called"> & { called: string })[]).map(
    (each) => ({ ...each, called: new RegExp(each.called, "i") }) as unknown as K,
  );
}
