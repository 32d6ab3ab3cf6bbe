import type { WriteStream } from "node:tty";

/** Where the terminal writes: words go to the output, all else to the error output, so that a pipe gets the words alone. */
export interface Paper {
  /** A part of a reply. */
  say(text: string): void;
  /** A line beside the reply. */
  note(text: string): void;
  /** A line on what went wrong. */
  warn(text: string): void;
  /** Shows that something is waited for, until anything else is written. */
  wait(): void;
  /** Says how far something is, in place of what it said before; nothing where no terminal shows it. */
  progress(text: string): void;
}

const marks = ["·  ", "·· ", "···", " ··", "  ·", "   "];
const beat = 160;

/** Paper on the process's own streams: colours, and a waiting sign, only where a terminal shows them. */
export function paper(out: NodeJS.WriteStream = process.stdout, aside: NodeJS.WriteStream = process.stderr): Paper {
  const hasColours = (stream: NodeJS.WriteStream) => (stream as WriteStream).isTTY === true && !process.env.NO_COLOR;
  const coloured = (code: number, text: string) => (hasColours(aside) ? `\x1b[${code}m${text}\x1b[0m` : text);
  let timer: NodeJS.Timeout | undefined;
  let isAtStart = true;
  const rest = () => {
    if (!timer) return;
    clearInterval(timer);
    timer = undefined;
    aside.write("\r\x1b[K");
  };
  const line = (text: string) => {
    rest();
    if (!isAtStart && hasColours(out)) out.write("\n");
    isAtStart = true;
    aside.write(`${text}\n`);
  };
  return {
    say(text) {
      rest();
      out.write(text);
      isAtStart = text.endsWith("\n");
    },
    note: (text) => line(coloured(2, text)),
    warn: (text) => line(coloured(31, text)),
    progress(text) {
      if ((aside as WriteStream).isTTY === true) aside.write(`\r\x1b[K${coloured(2, text)}`);
    },
    wait() {
      if (timer || (aside as WriteStream).isTTY !== true) return;
      let at = 0;
      timer = setInterval(() => aside.write(`\r${coloured(2, marks[at++ % marks.length] ?? "")}`), beat);
    },
  };
}
