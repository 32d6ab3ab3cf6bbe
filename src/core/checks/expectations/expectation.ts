import type { Phrase } from "../phrase";
import type { Seen } from "../seen";

/** What every expectation has: its kind, and whether the opposite is expected. */
export interface Expects {
  kind: string;
  not?: true;
}

/** What was found of an expectation: whether it is met, the opposite not considered, and what was seen. */
export interface Found<S> {
  /** Undefined where it could not be found out. */
  isMet: boolean | undefined;
  saw: S;
  /** Whether it says nothing about how the trial came out. */
  isOpinion?: boolean;
}

/**
 * A kind of expectation: how it is written, what it means, and how it is told. `S` is what it saw, which is kept as
 * JSON and put into words only where it is read.
 */
export interface ExpectationKind<E extends Expects, S> {
  /** Ways to write it, as examples: the documentation and completion are made of them. */
  forms: readonly string[];
  /** Reads it; undefined where a line is of another kind. @throws {Unreadable} where it is of this one, and wrong */
  read(phrase: Phrase): E | undefined;
  /** Writes it as it is read. */
  write(expected: E): string;
  judge(expected: E, seen: Seen): Found<S>;
  /** What was seen, as it is told where it broke: it follows on "it …". */
  tell(saw: S, expected: E): string;
  /** What the reply needed to have been told, where it is that. */
  needs?(expected: E): readonly string[];
}

/** A short piece of a text, for telling what was seen. */
export function excerpt(text: string, most = 160): string {
  const line = text.replace(/\s+/g, " ").trim();
  return line.length > most ? `${line.slice(0, most - 1).trimEnd()}…` : line;
}
