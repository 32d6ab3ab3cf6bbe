import { Button, Input } from "antd";
import { type FormEvent, useState } from "react";
import type { Content } from "@/core/revision/content";
import { mostTogether, type Tool, toolName, usualRounds, usualTogether } from "@/core/tools/tool";
import { Action } from "../../shared/Action";
import { NumberValue } from "../../shared/inline/NumberValue";
import { Unfolds } from "../../shared/inline/Unfolds";
import sentences from "../../shared/sentences/sentences.module.css";
import { OperationsForm } from "./OperationsForm";
import { ToolEditor } from "./ToolEditor";
import { ToolSecrets } from "./ToolSecrets";
import styles from "./ToolsSentence.module.css";
import { newTool } from "./tool-text";

/** Tools that an app may have. */
const mostTools = 64;

/** What the model may ask for: each tool opens where it stands, and others are added. */
export default function ToolsSentence({
  app,
  content,
  edit,
}: {
  /** Its address. */
  app: string;
  content: Content;
  edit: (change: Partial<Content>) => void;
}) {
  const { tools = [], rounds = usualRounds, together = usualTogether } = content;
  const [open, setOpen] = useState<string>();
  const [adds, setAdds] = useState<"one" | "document">();
  const setTools = (next: readonly Tool[]) => edit({ tools: next.length > 0 ? [...next] : undefined });
  const opened = tools.find(({ name }) => name === open);
  const add = (added: readonly Tool[]) => {
    setTools([...tools, ...added]);
    setAdds(undefined);
    if (added.length === 1) setOpen(added[0]?.name);
  };
  return (
    <section aria-label="Tools">
      <div className={sentences.sentence}>
        May ask for{" "}
        {tools.length === 0
          ? "no tool"
          : tools.map(({ name }, at) => (
              <span key={name}>
                {at > 0 && (at === tools.length - 1 ? " and " : ", ")}
                <Unfolds isOpen={open === name} onClick={() => setOpen(open === name ? undefined : name)}>
                  {name}
                </Unfolds>
              </span>
            ))}
        {tools.length > 0 && (
          <>
            , in at most{" "}
            <NumberValue
              label="Rounds of calls at most"
              value={rounds}
              min={1}
              max={20}
              onChange={(next) => edit({ rounds: next === usualRounds ? undefined : next })}
            />{" "}
            rounds,{" "}
            <NumberValue
              label="Calls of a round that are made at once"
              value={together}
              min={1}
              max={mostTogether}
              onChange={(next) => edit({ together: next === usualTogether ? undefined : next })}
            />{" "}
            {together === 1 ? "call" : "calls"} at once
          </>
        )}
        .
      </div>
      {opened && (
        <ToolEditor
          key={opened.name}
          tool={opened}
          others={tools.filter((tool) => tool !== opened).map(({ name }) => name)}
          onChange={(next) => {
            setTools(tools.map((tool) => (tool === opened ? next : tool)));
            setOpen(next.name);
          }}
          onDelete={() => {
            setTools(tools.filter((tool) => tool !== opened));
            setOpen(undefined);
          }}
        />
      )}
      <ToolSecrets app={app} tools={tools} />
      {tools.length < mostTools && (
        <div className={sentences.under}>
          <Action aria-expanded={adds === "one"} onClick={() => setAdds(adds === "one" ? undefined : "one")}>
            add a tool
          </Action>
          <Action
            aria-expanded={adds === "document"}
            onClick={() => setAdds(adds === "document" ? undefined : "document")}
          >
            from an OpenAPI document
          </Action>
        </div>
      )}
      {adds === "one" && <NewTool names={tools.map(({ name }) => name)} onAdd={(tool) => add([tool])} />}
      {adds === "document" && (
        <OperationsForm names={tools.map(({ name }) => name)} most={mostTools - tools.length} onAdd={add} />
      )}
    </section>
  );
}

/** A tool that need not exist yet: its name, and what a model is told of it. */
function NewTool({ names, onAdd }: { names: readonly string[]; onAdd: (tool: Tool) => void }) {
  const [name, setName] = useState("");
  const [description, setDescription] = useState("");
  const wanted = name.trim();
  const why =
    wanted === ""
      ? undefined
      : names.includes(wanted)
        ? "There is one of that name already."
        : toolName.test(wanted)
          ? undefined
          : "Models take letters, digits, - and _ in a name, and no digit first.";
  const isWhole = wanted !== "" && description.trim() !== "" && why === undefined;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (isWhole) onAdd(newTool(wanted, description.trim()));
  };
  return (
    <form className={styles.form} onSubmit={submit}>
      <Input
        size="small"
        autoFocus
        aria-label="Name of the tool"
        placeholder="places_left"
        maxLength={64}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Input
        size="small"
        aria-label="What the tool does, for the model"
        placeholder="how many places are left on a boat"
        maxLength={2_000}
        value={description}
        onChange={(event) => setDescription(event.target.value)}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={!isWhole}>
        Add it
      </Button>
      {why && <small role="alert">{why}</small>}
    </form>
  );
}
