import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import {
  Decoration,
  type DecorationSet,
  EditorView,
  MatchDecorator,
  ViewPlugin,
  type ViewUpdate,
} from "@codemirror/view";
import { clockVariables } from "@/core/revision/clock";
import { variablesIn } from "@/core/revision/variables";
import Editor from "./Editor";

/** Where a prompt is written: its variables and the lines that begin its blocks are marked, and variables completed. */
export default function PromptEditor({
  text,
  names,
  selection,
  onChange,
  onLeave,
}: {
  text: string;
  /** What is selected when it is shown; its end without it. */
  selection?: { from: number; to: number };
  /** Variables that have a value. */
  names: readonly string[];
  onChange: (text: string) => void;
  onLeave: () => void;
}) {
  const complete = (context: CompletionContext): CompletionResult | null => {
    const begun = context.matchBefore(/\{\{\s*[a-zA-Z0-9_]*/);
    if (!begun) return null;
    const word = /[a-zA-Z0-9_]*$/.exec(begun.text)?.[0] ?? "";
    const all = new Set([...clockVariables, ...names, ...variablesIn(context.state.doc.toString())]);
    const rest = /^\s*\}\}/.exec(context.state.doc.sliceString(context.pos, context.pos + 10))?.[0].length ?? 0;
    const options = [...all]
      .filter((name) => name !== word)
      .map((name) => ({ label: `{{${name}}}`, apply: `{{${name}}}` }));
    return {
      from: begun.from,
      to: context.pos + rest,
      options: options.filter(({ label }) => label.startsWith(`{{${word}`)),
      filter: false,
    };
  };
  return (
    <Editor
      label="System prompt"
      text={text}
      selection={selection}
      onChange={onChange}
      onLeave={onLeave}
      complete={complete}
      extensions={marked}
      takesFocus
      isAsHighAsText
    />
  );
}

const marks = new MatchDecorator({
  regexp: /\{\{\s*[a-z][a-zA-Z0-9_]*\s*\}\}|^\[\[[^\]\n]{1,80}\]\]$/gm,
  decoration: ([found]) => Decoration.mark({ class: found.startsWith("{") ? "cm-variable" : "cm-block" }),
});

/** Marks what is no plain words in a prompt. */
const marked = [
  ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      constructor(view: EditorView) {
        this.decorations = marks.createDeco(view);
      }
      update(update: ViewUpdate) {
        this.decorations = marks.updateDeco(update, this.decorations);
      }
    },
    { decorations: ({ decorations }) => decorations },
  ),
  EditorView.theme({
    ".cm-variable": { color: "var(--wing)", fontWeight: "600" },
    ".cm-block": { color: "var(--quiet)", fontWeight: "600" },
  }),
];
