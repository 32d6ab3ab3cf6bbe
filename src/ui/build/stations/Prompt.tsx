import { clockVariables } from "@/core/revision/clock";
import { variablesIn } from "@/core/revision/variables";
import { duration, many } from "../../shared/format";
import { TextWord } from "../../shared/words";
import type { Station, StationScene } from "./station";
import styles from "./stations.module.css";

/** The app's role. */
export const prompt: Station = {
  name: "Prompt",
  reading: ({ app, ahead }) =>
    `${app.draftRevision === null ? "draft" : `revision ${app.draftRevision}`} · ${many(ahead.prompt, "token")}`,
  mark: ({ facts: { steps } }) => ({ state: "done", time: steps && duration(steps.prompt) }),
  Sentence: PromptSentence,
};

function PromptSentence({ app, draft, ahead, onEditPrompt }: StationScene) {
  const { content } = draft;
  const asked = variablesIn(content.prompt).filter((name) => !clockVariables.includes(name));
  return (
    <>
      <div className={styles.sentence}>
        Sends a system prompt of about <b>{many(ahead.prompt, "token")}</b>
        {asked.map((name, at) => (
          <span key={name}>
            {at === 0 ? ", where " : ", "}
            <code>{`{{${name}}}`}</code> is{" "}
            <TextWord
              label={`Value of ${name}`}
              placeholder="nothing yet"
              value={content.variables[name] ?? ""}
              onChange={(value) => draft.edit({ variables: withVariable(content.variables, name, value) })}
            />
          </span>
        ))}
        .
      </div>
      <p className={styles.under}>
        <span>
          {app.draftRevision === null
            ? `A draft after revision ${app.latest.number}: the next message makes it a revision.`
            : `Revision ${app.draftRevision}, unchanged.`}
        </span>
        <button type="button" className="link" onClick={onEditPrompt}>
          edit it in row 0
        </button>
        <span>
          <code>{"{{today}}"}</code>, <code>{"{{weekday}}"}</code> and <code>{"{{time}}"}</code> are filled from the
          clock, in UTC.
        </span>
      </p>
    </>
  );
}

function withVariable(variables: Record<string, string>, name: string, value: string): Record<string, string> {
  const { [name]: _before, ...others } = variables;
  return value === "" ? others : { ...others, [name]: value };
}
