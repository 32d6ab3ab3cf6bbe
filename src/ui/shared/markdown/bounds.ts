/** What a block may hold to be read as Markdown. Reading more takes longer than its length, or nests deeper than a page can. */
const most = { levels: 12, indent: 48, marks: 1_200, run: 2_000, characters: 20_000, columns: 80 };

const containers = /^(?:[ \t]{0,3}(?:>|[-*+](?=\s)|\d{1,9}[.)](?=\s))[ \t]*)*/;

/** Why a block is shown as it was written, if it is: in words that follow "Shown as written: ". */
export function tooMuch(text: string): string | undefined {
  if (text.length > most.characters) return "it is too long";
  let marks = 0;
  let run = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (isMark(code)) marks += 1;
    run = code === 0x20 || code === 0x0a ? 0 : run + 1;
    if (run > most.run) return "it has a word without end";
  }
  if (marks > most.marks) return "it has too many marks";
  for (const line of text.split("\n")) {
    if (line.split("|").length > most.columns) return "it has too many columns";
    const [start = ""] = containers.exec(line) ?? [];
    if (start.replace(/[\s\d]/g, "").length > most.levels) return "it is nested too deep";
    if (line.length - line.trimStart().length > most.indent && /^\s*(?:>|[-*+]\s|\d{1,9}[.)]\s)/.test(line))
      return "it is nested too deep";
  }
  return undefined;
}

/** Whether a character begins or ends something inside of a line: one of `! & * < [ \ ] _ ~` and the back quote. */
function isMark(code: number): boolean {
  return (
    code === 0x21 ||
    code === 0x26 ||
    code === 0x2a ||
    code === 0x3c ||
    (code >= 0x5b && code <= 0x5d) ||
    code === 0x5f ||
    code === 0x60 ||
    code === 0x7e
  );
}
