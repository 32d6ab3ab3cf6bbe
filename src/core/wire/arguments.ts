import { parse as splitWords } from "shell-quote";

/** Thrown for a text that is no list of arguments; the message says what it holds instead. */
export class NotArguments extends Error {}

/**
 * A program and its arguments, written as words with blanks between them; one that holds blanks stands in quotes. There
 * is no shell: what only a shell understands is refused, and not handed to the program as a word.
 * @throws {NotArguments}
 */
export function argumentsIn(text: string): [program: string, ...rest: string[]] {
  const variables: string[] = [];
  const words = splitWords(text, (name) => {
    variables.push(name);
    return "";
  }).map((word) => {
    if (typeof word === "string") return word;
    const sign = "comment" in word ? "#" : word.op === "glob" ? (word as { pattern: string }).pattern : word.op;
    throw new NotArguments(
      `holds ${sign}, which only a shell understands: put that into a script, and name the script`,
    );
  });
  if (variables.length > 0)
    throw new NotArguments(`holds $${variables[0]}, and no variable is filled in: the program gets none of them`);
  const [program, ...rest] = words;
  if (program === undefined || program === "") throw new NotArguments("names no program");
  return [program, ...rest];
}
