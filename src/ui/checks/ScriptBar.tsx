import Link from "next/link";
import { useMemo, useState } from "react";
import { type CheckScript, checks } from "@/contract/checks";
import { parseScript } from "@/core/checks/parse";
import { isScriptName } from "@/core/checks/script";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { TextValue } from "../shared/inline/TextValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./Checks.module.css";
import type { EditedScript } from "./use-script";

/** Over the script: which one it is, where it is kept, whether it is saved, and what can't be read of it. */
export function ScriptBar({
  slug,
  scripts,
  folder,
  script,
  scriptName,
  onName,
  onFold,
}: {
  slug: string;
  scripts: readonly CheckScript[];
  folder: string | null;
  script: EditedScript;
  scriptName: string;
  onName: (name: string) => void;
  /** Back to the run; undefined where there is nothing else to show. */
  onFold: (() => void) | undefined;
}) {
  const [isNew, setNew] = useState(false);
  const moving = useChange(
    "The folder",
    (path: string | null) => server.send(checks.setFolder, { slug, body: { folder: path } }),
    [keys.scripts(slug)],
  );
  const read = useMemo(() => parseScript(script.text), [script.text]);
  const [fault] = read.faults;
  const isThere = scripts.some(({ name }) => name === scriptName);
  const names = [...scripts.map(({ name }) => name), ...(isThere ? [] : [scriptName])];
  return (
    <header className={styles.about}>
      <h2>
        {names.length > 1 ? (
          <ChoiceValue
            label="Script"
            value={scriptName}
            options={names.map((name) => ({ value: name, label: `${name}.checks` }))}
            onChange={onName}
          />
        ) : (
          `${scriptName}.checks`
        )}
      </h2>
      <span>
        {many(read.script.checks.length, "check")}
        {fault && (
          <>
            {" "}
            · <b className={styles.fault}>{many(read.faults.length, "line")} can't be read</b>: line {fault.line},{" "}
            {fault.why}
          </>
        )}
      </span>
      <span>
        kept in{" "}
        <TextValue
          label="Folder that the scripts are read from"
          value={folder ?? ""}
          placeholder="the app"
          maxLength={1000}
          onChange={(path) => moving.run(path.trim() === "" ? null : path.trim())}
        />
      </span>
      <span role="status">{script.isSaved ? "saved" : script.problem ? "not saved" : "…"}</span>
      {isNew ? (
        <TextValue
          label="Name of the new script"
          value=""
          placeholder="its name"
          maxLength={80}
          read={(name) =>
            isScriptName(name.trim())
              ? { kind: "value", value: name.trim() }
              : { kind: "wrong", why: "letters, figures, spaces, _ and -" }
          }
          onChange={(name) => {
            setNew(false);
            onName(name);
          }}
        />
      ) : (
        <Action onClick={() => setNew(true)}>another script</Action>
      )}
      <Link href="/docs/checks" target="_blank">
        the language
      </Link>
      {onFold && <Action onClick={onFold}>back to the run</Action>}
      {script.problem && (
        <div>
          <ProblemNote problem={script.problem} />
          {script.problem.kind === "conflict" && (
            <span className={styles.acts}>
              <Action onClick={script.takeTheirs}>take what stands there</Action>
              <Action onClick={() => void script.putMine()}>put mine in its place</Action>
            </span>
          )}
        </div>
      )}
      {moving.problem && <ProblemNote problem={moving.problem} />}
    </header>
  );
}
