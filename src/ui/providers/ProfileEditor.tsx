"use client";

import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import { json, jsonParseLinter } from "@codemirror/lang-json";
import { bracketMatching, foldGutter, HighlightStyle, indentOnInput, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter, lintKeymap } from "@codemirror/lint";
import { type EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { findNodeAtLocation, parseTree } from "jsonc-parser";
import { z } from "zod";
import { completionsAt, type SchemaNode } from "@/core/wire/completions";
import { profileSchema } from "@/core/wire/profile-schema";
import Editor from "../shared/editor/Editor";
import { readProfileText } from "./profile-text";

/** A JSON editor for a wire profile, with what is wrong shown where it stands. */
export default function ProfileEditor({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  return (
    <Editor label="Wire profile as JSON" text={text} onChange={onChange} complete={complete} extensions={syntax} />
  );
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

const syntax = [
  lineNumbers(),
  foldGutter(),
  indentOnInput(),
  bracketMatching(),
  highlightActiveLine(),
  syntaxHighlighting(colours),
  json(),
  linter(jsonParseLinter()),
  linter(profileLinter, { delay: 200 }),
  lintGutter(),
  keymap.of(lintKeymap),
];
