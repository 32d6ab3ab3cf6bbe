"use client";

import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { json, jsonParseLinter } from "@codemirror/lang-json";
import { bracketMatching, foldGutter, HighlightStyle, indentOnInput, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter, lintKeymap } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { findNodeAtLocation, parseTree } from "jsonc-parser";
import { useEffect, useRef } from "react";
import { z } from "zod";
import { completionsAt, type SchemaNode } from "@/core/wire/completions";
import { profileSchema } from "@/core/wire/profile-schema";
import { useTheme } from "../frame/Providers";
import styles from "./ProfileEditor.module.css";
import { readProfileText } from "./profile-text";

/** A JSON editor for a wire profile, with what is wrong shown where it stands. */
export default function ProfileEditor({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  const { nonce } = useTheme();
  const home = useRef<HTMLDivElement>(null);
  const changed = useRef(onChange);
  changed.current = onChange;
  const first = useRef(text);
  useEffect(() => {
    if (!home.current) return;
    const view = new EditorView({
      parent: home.current,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          EditorView.cspNonce.of(nonce),
          lineNumbers(),
          foldGutter(),
          history(),
          drawSelection(),
          indentOnInput(),
          bracketMatching(),
          highlightActiveLine(),
          syntaxHighlighting(colours),
          json(),
          linter(jsonParseLinter()),
          linter(profileLinter, { delay: 200 }),
          lintGutter(),
          autocompletion({ override: [complete], icons: false }),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap, ...lintKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": "Wire profile as JSON", tabindex: "0" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) changed.current(update.state.doc.toString());
          }),
          look,
        ],
      }),
    });
    return () => view.destroy();
  }, [nonce]);
  return <div ref={home} className={styles.editor} />;
}

const schema = z.toJSONSchema(profileSchema, { io: "input", unrepresentable: "any" }) as SchemaNode;

/** What can stand where the cursor is, by the schema of profiles. */
function complete({ state, pos, explicit }: CompletionContext): CompletionResult | null {
  const text = state.doc.toString();
  const before = text[pos - 1] ?? "";
  if (!explicit && !/["\w.-]/.test(before)) return null;
  const found = completionsAt(schema, text, pos);
  if (!found) return null;
  // what was begun is replaced whole, with the quote that closes it
  const rest = /^[\w.-]*"?/.exec(text.slice(pos))?.[0].length ?? 0;
  const options = found.options.map((option) => ({ label: option.text, detail: option.says }));
  return { from: found.from, to: pos + rest, options };
}

function profileLinter(view: EditorView): Diagnostic[] {
  const text = view.state.doc.toString();
  const read = readProfileText(text);
  if (read.profile || !read.steps) return [];
  const { wrong, steps } = read;
  const tree = parseTree(text);
  let node = tree;
  for (let length = steps.length; tree && length > 0; length--) {
    const found = findNodeAtLocation(tree, steps.slice(0, length));
    if (found) {
      node = found;
      break;
    }
  }
  const from = node?.offset ?? 0;
  const to = Math.min(from + Math.min(node?.length ?? 1, 200), text.length);
  return [{ from, to, severity: "error", message: wrong }];
}

const colours = HighlightStyle.define([
  { tag: tags.propertyName, color: "var(--wing)" },
  { tag: tags.string, color: "var(--moss)" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--plum)" },
]);

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
