"use client";

import { keymap } from "@codemirror/view";
import { useMemo, useRef } from "react";
import Editor from "../shared/editor/Editor";
import { completeScript, scriptSyntax } from "./script-language";

/** Where a script of checks is written. */
export default function ScriptEditor({
  name,
  text,
  line,
  onChange,
  onLeave,
  onRunAt,
}: {
  name: string;
  text: string;
  /** The line that it begins at. */
  line: number;
  onChange: (text: string) => void;
  onLeave: () => void;
  /** Runs the check that a line is in. */
  onRunAt: (line: number) => void;
}) {
  const newest = useRef(onRunAt);
  newest.current = onRunAt;
  const extensions = useMemo(
    () => [
      keymap.of([
        {
          key: "Alt-Enter",
          run(view) {
            newest.current(view.state.doc.lineAt(view.state.selection.main.head).number);
            return true;
          },
        },
      ]),
      scriptSyntax,
    ],
    [],
  );
  return (
    <Editor
      label={`Script ${name}`}
      text={text}
      onChange={onChange}
      onLeave={onLeave}
      complete={completeScript}
      extensions={extensions}
      takesFocus
      line={line}
    />
  );
}
