import {
  acceptCompletion,
  autocompletion,
  CompletionContext,
  type CompletionResult,
  closeCompletion,
  completionKeymap,
  completionStatus,
  startCompletion,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { EditorState, type Extension, Text } from "@codemirror/state";
import { drawSelection, EditorView, type KeyBinding, keymap } from "@codemirror/view";
import { useLayoutEffect, useRef } from "react";
import { useTheme } from "../../frame/Providers";
import styles from "./Editor.module.css";

interface Props {
  /** What is edited, for those who hear it. */
  label: string;
  text: string;
  onChange: (text: string) => void;
  onLeave?: () => void;
  /** Gives what can stand where the cursor is. */
  complete: Complete;
  /** What a syntax brings along; the same for as long as the editor is shown. */
  extensions?: Extension;
  /** Whether it takes the focus when it is shown: at its end, at the beginning of `line`, or with `selection`. */
  takesFocus?: boolean;
  line?: number;
  selection?: { from: number; to: number };
  /** Whether it is as high as its text, up to a bound, instead of as what it stands in. */
  isAsHighAsText?: boolean;
}

/** What can stand where the cursor is, without waiting for anything. */
type Complete = (context: CompletionContext) => CompletionResult | null;

/** A text with a syntax, edited: the one editor of the bench. A text that is changed elsewhere is shown at once. */
export default function Editor({
  label,
  text,
  onChange,
  onLeave,
  complete,
  extensions = [],
  takesFocus = false,
  line,
  selection,
  isAsHighAsText = false,
}: Props) {
  const { nonce } = useTheme();
  const home = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView>(undefined);
  const newest = useRef({ onChange, onLeave, complete });
  newest.current = { onChange, onLeave, complete };
  const first = useRef({ text, extensions, label, takesFocus, line, selection });
  // in the same step that takes away the field which stood here: what is typed in between has somewhere to go
  useLayoutEffect(() => {
    if (!home.current) return;
    const { text, extensions, label, takesFocus, line, selection } = first.current;
    const doc = Text.of(text.split(/\r\n?|\n/));
    const anchor = line === undefined ? doc.length : doc.line(Math.min(Math.max(line, 1), doc.lines)).from;
    const view = new EditorView({
      parent: home.current,
      scrollTo: line === undefined ? undefined : EditorView.scrollIntoView(anchor, { y: "start", yMargin: 24 }),
      state: EditorState.create({
        doc,
        selection: takesFocus ? selectionAt(doc, selection ?? { from: anchor, to: anchor }) : undefined,
        extensions: [
          EditorView.cspNonce.of(nonce),
          history(),
          drawSelection(),
          autocompletion({
            override: [(context) => keptUp(newest.current.complete, context)],
            icons: false,
            defaultKeymap: false,
            // what is shown is taken by the next key, however soon that comes
            interactionDelay: 0,
            activateOnTypingDelay: 0,
          }),
          keymap.of([...completionKeys, ...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": label, tabindex: "0" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && !update.transactions.some(isFromElsewhere))
              newest.current.onChange(update.state.doc.toString());
          }),
          EditorView.domEventHandlers({
            blur: () => newest.current.onLeave?.(),
          }),
          look,
          extensions,
        ],
      }),
    });
    editor.current = view;
    if (takesFocus) view.focus();
    // what was begun in the plain field that stood here is completed as if it had been begun here
    const here = new CompletionContext(view.state, view.state.selection.main.head, false);
    if (takesFocus && newest.current.complete(here)) startCompletion(view);
    return () => view.destroy();
  }, [nonce]);
  // before anything else is typed: a text that came later would take back what was, and close what is offered
  useLayoutEffect(() => {
    const view = editor.current;
    const before = view?.state.doc.toString();
    if (!view || before === undefined || before === text) return;
    view.dispatch({ changes: changeBetween(before, text), userEvent: elsewhere });
  }, [text]);
  return <div ref={home} className={styles.editor} data-height={isAsHighAsText ? "text" : "place"} />;
}

function selectionAt({ length }: Text, { from, to }: { from: number; to: number }) {
  return { anchor: Math.min(from, length), head: Math.min(to, length) };
}

/** Tab takes what is offered, and Enter always breaks the line; Escape closes that where it is seen, and else goes on to what the editor stands in. */
const completionKeys: KeyBinding[] = [
  { key: "Tab", run: acceptCompletion },
  { key: "Escape", run: (view) => completionStatus(view.state) === "active" && closeCompletion(view) },
  ...completionKeymap.filter(({ key }) => key !== "Escape" && key !== "Enter"),
];

/**
 * What can stand here, found anew at once with each letter: were it looked for again after a while, what is shown could
 * not be taken in between, and Tab would leave the editor.
 */
function keptUp(complete: Complete, context: CompletionContext): CompletionResult | null {
  const result = complete(context);
  return result && { ...result, update: (_current, _from, _to, next) => keptUp(complete, next) };
}

/** What a change is called that was not typed here. */
const elsewhere = "elsewhere";

function isFromElsewhere(transaction: { isUserEvent: (event: string) => boolean }): boolean {
  return transaction.isUserEvent(elsewhere);
}

/** The stretch in which two texts differ: what is around it, and the cursor in that, stays where it is. */
function changeBetween(before: string, after: string): { from: number; to: number; insert: string } {
  const most = Math.min(before.length, after.length);
  let from = 0;
  while (from < most && before[from] === after[from]) from += 1;
  let end = 0;
  while (end < most - from && before[before.length - 1 - end] === after[after.length - 1 - end]) end += 1;
  return { from, to: before.length - end, insert: after.slice(from, after.length - end) };
}

const look = EditorView.theme({
  "&": { fontSize: "var(--type-small)", backgroundColor: "var(--shade)", color: "var(--ink)", height: "100%" },
  ".cm-scroller": { fontFamily: "'JetBrains Mono Variable', monospace", lineHeight: "1.6" },
  ".cm-gutters": { backgroundColor: "var(--shade)", color: "var(--quiet)", border: "none" },
  ".cm-activeLine, .cm-activeLineGutter": { backgroundColor: "var(--sheet)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  "&.cm-focused": { outline: "2px solid var(--wing)" },
  ".cm-selectionBackground, &.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground": {
    backgroundColor: "var(--rule)",
  },
  ".cm-tooltip": { backgroundColor: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--ink)" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": { backgroundColor: "var(--wing)", color: "var(--sheet)" },
  ".cm-completionDetail": { color: "inherit", fontStyle: "normal" },
  ".cm-diagnostic-error": { borderLeft: "4px solid var(--bad)" },
});
