import dynamic from "next/dynamic";
import { useState } from "react";
import { patience, type Tool, toolName, usualSeconds } from "@/core/tools/tool";
import type { SchemaNode } from "@/core/wire/completions";
import { Action } from "../../shared/Action";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { TextValue } from "../../shared/inline/TextValue";
import styles from "./ToolsSentence.module.css";
import { readTool, toolJsonSchema, writeTool } from "./tool-text";

const JsonEditor = dynamic(() => import("../../shared/editor/JsonEditor"), { ssr: false });

type By = Tool["answer"]["by"];

/** What is answered at first, where another way is chosen. */
const begun: { [K in By]: Extract<Tool["answer"], { by: K }> } = {
  hand: { by: "hand" },
  caller: { by: "caller" },
  text: { by: "text", text: "Yes." },
  table: { by: "table", rows: [{ when: {}, text: "Yes." }] },
  address: { by: "address", method: "POST", url: "http://127.0.0.1:4616/places", allowsThisMachine: true },
  command: { by: "command", command: "node places.mjs" },
};

/** A tool as a sentence, and all of it as JSON under that. What can't be read yet is kept here, not in the draft. */
export function ToolEditor({
  tool,
  others,
  onChange,
  onDelete,
}: {
  tool: Tool;
  /** Names that are taken. */
  others: readonly string[];
  onChange: (tool: Tool) => void;
  onDelete: () => void;
}) {
  const [text, setText] = useState<string>();
  const { answer, asks, seconds = usualSeconds } = tool;
  const set = (change: Partial<Tool>) => {
    const next = { ...tool, ...change };
    onChange(next);
    setText((before) => before && writeTool(next));
  };
  const read = text === undefined ? undefined : readTool(text);
  const type = (next: string) => {
    setText(next);
    const found = readTool(next);
    if ("tool" in found && !others.includes(found.tool.name)) onChange(found.tool);
  };
  return (
    <div className={styles.tool}>
      <TextValue
        label="Name of the tool"
        value={tool.name}
        maxLength={64}
        read={(typed) =>
          toolName.test(typed.trim()) && !others.includes(typed.trim())
            ? { kind: "value", value: typed.trim() }
            : { kind: "wrong", why: "is no name that is free: letters, digits, - and _" }
        }
        onChange={(name) => set({ name })}
      />{" "}
      does this:{" "}
      <TextValue
        label="What the tool does, for the model"
        value={tool.description}
        maxLength={2_000}
        onChange={(description) => description.trim() !== "" && set({ description: description.trim() })}
      />
      . It is answered{" "}
      <ChoiceValue<By>
        label="How the tool is answered"
        value={answer.by}
        options={[
          { value: "hand", label: "by hand, in the bench" },
          { value: "address", label: "by an address" },
          { value: "text", label: "always with the same" },
          { value: "table", label: "from a table" },
          { value: "command", label: "by a command" },
          { value: "caller", label: "by the caller, over HTTP" },
        ]}
        onChange={(by) => set({ answer: begun[by] })}
      />
      {answer.by === "address" && (
        <>
          {" "}
          <TextValue
            label="Address of the tool"
            value={answer.url}
            maxLength={2_000}
            read={(url) =>
              URL.canParse(url.trim()) && /^https?:/.test(url.trim())
                ? { kind: "value", value: url.trim() }
                : { kind: "wrong", why: "is no http or https address" }
            }
            onChange={(url) => set({ answer: { ...answer, url } })}
          />
        </>
      )}
      {answer.by === "text" && (
        <>
          :{" "}
          <TextValue
            label="What the tool always answers"
            value={answer.text}
            onChange={(said) => set({ answer: { by: "text", text: said } })}
          />
        </>
      )}
      {answer.by === "command" && (
        <>
          {" "}
          <TextValue
            label="Command of the tool"
            value={answer.command}
            maxLength={2_000}
            onChange={(command) => command.trim() !== "" && set({ answer: { by: "command", command } })}
          />
        </>
      )}
      {(answer.by === "address" || answer.by === "command") && (
        <>
          {" "}
          within{" "}
          <NumberValue
            label="Seconds that the tool may take"
            value={seconds}
            min={1}
            max={300}
            onChange={(next) => set({ seconds: next === usualSeconds ? undefined : next })}
          />{" "}
          s
        </>
      )}
      {(answer.by === "hand" || answer.by === "caller") && ` (the reply waits up to ${patience / 60} minutes for that)`}
      , and it is called{" "}
      <ChoiceValue
        label="When the tool is called"
        value={asks ? "asks" : "once"}
        options={[
          { value: "once", label: "at once" },
          { value: "asks", label: "only where whoever is answered allows it" },
        ]}
        onChange={(when) => set({ asks: when === "asks" ? true : undefined })}
      />
      .{" "}
      <Action
        aria-expanded={text !== undefined}
        onClick={() => setText(text === undefined ? writeTool(tool) : undefined)}
      >
        its arguments, and all of it as JSON
      </Action>{" "}
      · <Action onClick={onDelete}>delete it</Action>
      {text !== undefined && (
        <>
          <div className={styles.editor}>
            <JsonEditor
              label={`Tool ${tool.name} as JSON`}
              text={text}
              onChange={type}
              schema={toolJsonSchema as SchemaNode}
              check={check}
            />
          </div>
          {read && "wrong" in read && (
            <div className={styles.wrong} role="status">
              {read.wrong} Until that is put right, the tool stays as it was.
            </div>
          )}
        </>
      )}
    </div>
  );
}

function check(text: string) {
  const read = readTool(text);
  return "wrong" in read && read.steps ? { wrong: read.wrong, steps: read.steps } : undefined;
}
