/**
 * A pasted text without what stands around it where it was copied: a mark of the byte order, the fence of a code block, and
 * spaces that only look like spaces.
 */
export function withoutWrapping(pasted: string): string {
  const text = pasted.replace(/^\uFEFF/, "").replace(/\u00A0/g, " ");
  const [, fenced] = /^\s*(?:`{3,}|~{3,})[^\n`]*\n([\s\S]*?)\n?(?:`{3,}|~{3,})\s*$/.exec(text) ?? [];
  return fenced ?? text;
}

/** A command whose quotes a text processor made typographic; one that has plain ones keeps what it has. */
export function withPlainQuotes(command: string): string {
  const single = /(?:^|\s)[‘’]/.test(command) && !command.includes("'") ? command.replace(/[‘’]/g, "'") : command;
  return /[“”]/.test(single) && !single.includes('"') ? single.replace(/[“”]/g, '"') : single;
}
