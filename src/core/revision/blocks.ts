/**
 * Named blocks of a system prompt, which can be switched off to try without them. A block begins with its name on a
 * line of its own, `[[luggage]]`, and goes on to the next such line or to `[[end]]`; these lines are not sent.
 */
const border = /^[ \t]*\[\[[ \t]*([^[\]\n]{1,60}?)[ \t]*\]\][ \t]*$/;
const ending = "end";

/** A stretch of a prompt, in a block or in none. */
export interface Stretch {
  /** The name of its block; null in none. */
  block: string | null;
  text: string;
  /** The line of the prompt that it begins with, from 0. */
  line: number;
}

/** A prompt in stretches, without the lines that part them. */
export function stretchesOf(prompt: string): Stretch[] {
  const stretches: Stretch[] = [];
  let open: { block: string | null; lines: string[]; line: number } = { block: null, lines: [], line: 0 };
  const close = () => {
    if (open.block !== null || open.lines.length > 0)
      stretches.push({ block: open.block, text: open.lines.join("\n"), line: open.line });
  };
  for (const [line, text] of prompt.split("\n").entries()) {
    const name = border.exec(text)?.[1];
    if (name === undefined) {
      open.lines.push(text);
      continue;
    }
    close();
    open = { block: name.toLowerCase() === ending ? null : name, lines: [], line: line + 1 };
  }
  close();
  return stretches;
}

/** The names of the blocks of a prompt, each once, in order. */
export function blocksIn(prompt: string): string[] {
  return [...new Set(stretchesOf(prompt).flatMap(({ block }) => block ?? []))];
}

/** What is sent of a prompt while some of its blocks are switched off. */
export function withoutBlocks(prompt: string, off: readonly string[]): string {
  if (!prompt.includes("[[")) return prompt;
  return stretchesOf(prompt)
    .filter(({ block }) => block === null || !off.includes(block))
    .map(({ text }) => text)
    .join("\n");
}
