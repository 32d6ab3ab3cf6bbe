"use client";

import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import { json, jsonParseLinter } from "@codemirror/lang-json";
import { bracketMatching, foldGutter, HighlightStyle, indentOnInput, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter, lintKeymap } from "@codemirror/lint";
import { type EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { findNodeAtLocation, parseTree } from "jsonc-parser";
import { useMemo } from "react";
import { completionsAt, type SchemaNode } from "@/core/wire/completions";
import Editor from "./Editor";

/** What is wrong with a text that is JSON, and the steps that lead to where it is wrong. */
export interface WrongAt {
  wrong: string;
  steps: readonly (string | number)[];
}

interface Props {
  label: string;
  text: string;
  onChange: (text: string) => void;
  onLeave?: () => void;
  /** By which is told what can stand where. The same for as long as the editor is shown. */
  schema: SchemaNode;
  /** Says what is wrong with a text that is JSON; undefined where nothing is. The same for as long as it is shown. */
  check: (text: string) => WrongAt | undefined;
  isAsHighAsText?: boolean;
}

/** An editor of JSON, with what is wrong shown where it stands, and what may stand there offered. */
export default function JsonEditor({ label, text, onChange, onLeave, schema, check, isAsHighAsText }: Props) {
  const extensions = useMemo(() => [...syntax, linter((view) => faultIn(view, check), { delay: 200 })], [check]);
  return (
    <Editor
      {...{ label, text, onChange, onLeave, extensions, isAsHighAsText }}
      complete={(context) => complete(schema, context)}
    />
  );
}

/** What can stand where the cursor is, by a schema. */
function complete(schema: SchemaNode, { state, pos, explicit }: CompletionContext): CompletionResult | null {
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

function faultIn(view: EditorView, check: Props["check"]): Diagnostic[] {
  const text = view.state.doc.toString();
  const fault = check(text);
  if (!fault) return [];
  const { wrong, steps } = fault;
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

const syntax = [
  lineNumbers(),
  foldGutter(),
  indentOnInput(),
  bracketMatching(),
  highlightActiveLine(),
  syntaxHighlighting(colours),
  json(),
  linter(jsonParseLinter()),
  lintGutter(),
  keymap.of(lintKeymap),
];
