import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter } from "@codemirror/lint";
import { type EditorView, highlightActiveLine, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { expectationForms } from "@/core/checks/expectations/expectations";
import { keywords } from "@/core/checks/line";
import { parseScript } from "@/core/checks/parse";

/** Milliseconds of rest after which a script is read while it is typed. */
const rest = 300;

/** The colours of a script: what begins a line, what is said, and what is expected. */
const language = StreamLanguage.define<{ isSaid: boolean }>({
  startState: () => ({ isSaid: false }),
  token(stream, state) {
    if (stream.sol()) {
      const isIndented = stream.eatSpace();
      if (stream.match("#")) {
        stream.skipToEnd();
        return "comment";
      }
      if (stream.match("|")) return "operator";
      if (!isIndented) {
        const keyword = stream.match(/\w+/) as RegExpMatchArray | null;
        state.isSaid =
          keyword?.[0] === "visitor" || keyword?.[0] === "app" || keyword?.[0] === "check" || keyword?.[0] === "turns";
        return keywords.includes(keyword?.[0] as (typeof keywords)[number]) ? "keyword" : "invalid";
      }
      state.isSaid = false;
    }
    if (state.isSaid) {
      stream.skipToEnd();
      return null;
    }
    if (stream.match(/"(?:[^"\\]|\\.)*"?/) || stream.match(/\/(?:[^/\\]|\\.)+\/\w*/)) return "string";
    if (stream.match(/[€$£]?\d[\d.:,-]*%?/)) return "number";
    if (stream.match(/\b(?:not|no|none)\b/)) return "operatorKeyword";
    stream.next();
    return null;
  },
});

const colours = HighlightStyle.define([
  { tag: tags.keyword, color: "var(--wing)", fontWeight: "600" },
  { tag: tags.string, color: "var(--moss)" },
  { tag: tags.number, color: "var(--plum)" },
  { tag: tags.operatorKeyword, fontWeight: "600" },
  { tag: tags.comment, color: "var(--quiet)" },
  { tag: tags.invalid, color: "var(--bad)" },
]);

/** What can't be read, where it stands. */
function faultsIn(view: EditorView): Diagnostic[] {
  const { doc } = view.state;
  return parseScript(doc.toString()).faults.map(({ line, why, advice }) => {
    const { from, to } = doc.line(Math.min(line, doc.lines));
    return {
      from,
      to: Math.max(to, from + 1 > doc.length ? from : from + 1),
      severity: "error",
      message: `${why}. ${advice}`,
    };
  });
}

/** How a script is coloured and judged while it is written. */
export const scriptSyntax = [
  lineNumbers(),
  highlightActiveLine(),
  language,
  syntaxHighlighting(colours),
  linter(faultsIn, { delay: rest }),
  lintGutter(),
];

const heads: Record<(typeof keywords)[number], string> = {
  check: "check  ",
  turns: "turns  ",
  passes: "passes in 4 of 5 trials",
  given: "given  today is ",
  after: "after  8 turns from ",
  pin: "pin  turn 1",
  visitor: "visitor  ",
  app: "app  ",
  whole: "whole",
};

/** What can stand on a line: what begins one, or, where it is indented, what can be expected. */
export function completeScript(context: CompletionContext): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const written = before.trimStart();
  if (!context.explicit && written === "") return null;
  const from = context.pos - written.length;
  if (/^\s/.test(before)) {
    const options = expectationForms.flat().map((form) => ({ label: form }));
    const fitting = options.filter(({ label }) => goesOn(label.toLowerCase(), written.toLowerCase()));
    return fitting.length === 0 ? null : { from, options: fitting, filter: false };
  }
  const options = keywords.filter((word) => goesOn(word, written)).map((word) => ({ label: word, apply: heads[word] }));
  return options.length === 0 ? null : { from, options, filter: false };
}

/** Whether a text begins with what is written, and there is more to it. */
function goesOn(text: string, written: string): boolean {
  return text.startsWith(written) && text !== written;
}
