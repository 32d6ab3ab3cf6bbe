import { Button, Checkbox, Input } from "antd";
import { useMemo, useState } from "react";
import { type Operation, operationsIn } from "@/core/tools/openapi";
import { longestParameters, type Tool } from "@/core/tools/tool";
import { many } from "../../shared/format";
import styles from "./ToolsSentence.module.css";

/** Operations that are listed at once. */
const mostShown = 300;

type ReadText = ReturnType<typeof operationsIn> | undefined;

/** Tools from the operations of an OpenAPI document, by choosing. */
export function OperationsForm({
  names,
  most,
  onAdd,
}: {
  /** Names that are taken. */
  names: readonly string[];
  /** Tools that may still be added. */
  most: number;
  onAdd: (tools: Tool[]) => void;
}) {
  const [text, setText] = useState("");
  const [read, setRead] = useState<ReadText>();
  const [looked, setLooked] = useState("");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const take = (next: string) => {
    setText(next);
    setChosen(new Set());
    void readDocument(next).then(setRead);
  };
  const operations = read?.kind === "read" ? read.operations : none;
  const shown = useMemo(() => {
    const words = looked.toLowerCase().split(/\s+/).filter(Boolean);
    return operations.filter((each) => {
      const said = `${each.method} ${each.path} ${each.name} ${each.description}`.toLowerCase();
      return words.every((word) => said.includes(word));
    });
  }, [operations, looked]);
  const wrongOf = (operation: Operation) =>
    names.includes(operation.name)
      ? "there is a tool of that name"
      : JSON.stringify(operation.parameters).length > longestParameters
        ? "takes more than a tool may"
        : operation.lacks && `can't be called: lacks ${operation.lacks}`;
  return (
    <div className={styles.form}>
      <Input.TextArea
        className={styles.document}
        autoFocus
        aria-label="OpenAPI document"
        placeholder="Paste an OpenAPI document, as JSON or YAML"
        autoSize={{ minRows: 2, maxRows: 6 }}
        value={text}
        onChange={(event) => take(event.target.value)}
      />
      <label>
        or take a file:{" "}
        <input
          type="file"
          accept=".json,.yaml,.yml"
          aria-label="File of an OpenAPI document"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            event.target.value = "";
            if (file) void file.text().then(take);
          }}
        />
      </label>
      {read?.kind === "wrong" && text.trim() !== "" && (
        <small role="alert">
          This is no document that tools can be taken from: {read.why}. {read.advice}
        </small>
      )}
      {operations.length > 0 && (
        <>
          <Input
            size="small"
            aria-label="Find an operation"
            placeholder={`find one of ${many(operations.length, "operation")}`}
            value={looked}
            onChange={(event) => setLooked(event.target.value)}
          />
          <Button
            size="small"
            type="primary"
            disabled={chosen.size === 0 || chosen.size > most}
            onClick={() => onAdd(operations.filter(({ name }) => chosen.has(name)).map(toolOf))}
          >
            Add {many(chosen.size, "tool")}
          </Button>
          {chosen.size > most && <small role="alert">{`${most} more may be added.`}</small>}
          <ul className={styles.operations} aria-label="Operations">
            {shown.slice(0, mostShown).map((operation) => {
              const { name, method, path, description } = operation;
              const wrong = wrongOf(operation);
              return (
                <li key={name}>
                  <Checkbox
                    checked={chosen.has(name)}
                    disabled={wrong !== undefined}
                    onChange={({ target }) => {
                      const next = new Set(chosen);
                      if (target.checked) next.add(name);
                      else next.delete(name);
                      setChosen(next);
                    }}
                  >
                    <code>{name}</code> {method} {path}
                  </Checkbox>
                  <small>{wrong ?? description}</small>
                </li>
              );
            })}
          </ul>
        </>
      )}
    </div>
  );
}

const none: Operation[] = [];

function toolOf({ name, description, parameters, method, url, body, headers }: Operation): Tool {
  const given = { body, headers: headers.length > 0 ? headers : undefined };
  return { name, description, parameters, answer: { by: "address", method, url, ...given } };
}

/** Reads a document that is JSON, or YAML (1.2, https://yaml.org/spec/1.2.2/). */
async function readDocument(text: string): Promise<ReadText> {
  if (text.trim() === "") return undefined;
  try {
    return operationsIn(JSON.parse(text), undefined);
  } catch {
    const { parse, YAMLError } = await import("yaml");
    try {
      return operationsIn(parse(text, { maxAliasCount: 100 }), undefined);
    } catch (error) {
      if (!(error instanceof YAMLError || error instanceof ReferenceError)) throw error;
      return { kind: "wrong", why: `it is neither JSON nor YAML (${error.message.split("\n")[0]})`, advice: "" };
    }
  }
}
