import { Input } from "antd";
import { useId, useRef, useState } from "react";
import { clockVariables } from "@/core/revision/clock";
import { variablesIn } from "@/core/revision/variables";
import prompt from "./PromptRow.module.css";

/** Where a prompt is written. A variable that is begun with two braces is completed. */
export function PromptArea({
  value,
  names: own,
  onChange,
  onLeave,
}: {
  value: string;
  /** Variables that have a value. */
  names: readonly string[];
  onChange: (value: string) => void;
  onLeave: () => void;
}) {
  const list = useId();
  const area = useRef<{ resizableTextArea?: { textArea: HTMLTextAreaElement } }>(null);
  const [begun, setBegun] = useState<{ from: number; text: string }>();
  const [chosen, setChosen] = useState(0);
  const names = [...new Set([...clockVariables, ...own, ...variablesIn(value)])];
  const fitting = begun ? names.filter((name) => name.startsWith(begun.text) && name !== begun.text) : [];

  const look = (element: HTMLTextAreaElement) => {
    const match = /\{\{\s*([a-zA-Z0-9_]*)$/.exec(element.value.slice(0, element.selectionStart));
    setBegun(match ? { from: element.selectionStart - (match[1]?.length ?? 0), text: match[1] ?? "" } : undefined);
    setChosen(0);
  };
  const complete = (name: string) => {
    if (!begun) return;
    const before = value.slice(0, begun.from);
    const after = value.slice(begun.from + begun.text.length).replace(/^\s*\}\}/, "");
    onChange(`${before}${name}}}${after}`);
    setBegun(undefined);
    const element = area.current?.resizableTextArea?.textArea;
    const place = before.length + name.length + 2;
    requestAnimationFrame(() => element?.setSelectionRange(place, place));
  };

  return (
    <div className={prompt.area}>
      <Input.TextArea
        ref={area as never}
        aria-label="System prompt"
        aria-autocomplete="list"
        aria-controls={fitting.length > 0 ? list : undefined}
        aria-activedescendant={fitting.length > 0 ? `${list}-${chosen}` : undefined}
        autoFocus
        autoSize={{ minRows: 3, maxRows: 18 }}
        value={value}
        onChange={(event) => {
          onChange(event.target.value);
          look(event.target);
        }}
        onBlur={onLeave}
        onKeyDown={(event) => {
          const steps = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (fitting.length > 0 && steps !== undefined) {
            event.preventDefault();
            setChosen((chosen + steps + fitting.length) % fitting.length);
          } else if (fitting.length > 0 && (event.key === "Enter" || event.key === "Tab")) {
            event.preventDefault();
            complete(fitting[chosen] ?? "");
          } else if (event.key === "Escape") {
            event.stopPropagation();
            if (fitting.length > 0) setBegun(undefined);
            else onLeave();
          }
        }}
      />
      {fitting.length > 0 && (
        <div id={list} role="listbox" aria-label="Variables" className={prompt.names}>
          {fitting.map((name, at) => (
            <div
              key={name}
              id={`${list}-${at}`}
              role="option"
              tabIndex={-1}
              aria-selected={at === chosen}
              // the area keeps the focus
              onMouseDown={(event) => {
                event.preventDefault();
                complete(name);
              }}
            >
              {`{{${name}}}`}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
