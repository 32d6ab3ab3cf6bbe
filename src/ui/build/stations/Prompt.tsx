import { tokensOfPart } from "@/core/context/reach";
import { blocksIn } from "@/core/revision/blocks";
import { clockVariables } from "@/core/revision/clock";
import { variablesIn } from "@/core/revision/variables";
import { Action } from "../../shared/Action";
import { duration, many } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { TextValue } from "../../shared/inline/TextValue";
import sentences from "../../shared/sentences/sentences.module.css";
import { OpeningSentence } from "./OpeningSentence";
import type { Station, StationScene } from "./station";

/** The app's role. */
export const prompt: Station = {
  name: "Prompt",
  reading: ({ app, ahead }) =>
    `${app.draftRevision === null ? "draft" : `revision ${app.draftRevision}`} · ${many(tokensOfPart(ahead, "prompt"), "token")}`,
  mark: ({ facts: { steps } }) => ({ state: "done", time: steps && duration(steps.prompt) }),
  Sentence: PromptSentence,
};

function PromptSentence({ app, draft, ahead, onEditPrompt, onShowRevisions }: StationScene) {
  const { content, edit } = draft;
  const names = variablesIn(content.prompt);
  const asked = names.filter((name) => !clockVariables.includes(name));
  const blocks = blocksIn(content.prompt);
  const off = content.off ?? [];
  return (
    <>
      <div className={sentences.sentence}>
        Sends a system prompt of about <b>{many(tokensOfPart(ahead, "prompt"), "token")}</b>
        {asked.map((name, at) => (
          <span key={name}>
            {at === 0 ? ", where " : ", "}
            <code>{`{{${name}}}`}</code> is{" "}
            <TextValue
              label={`Value of ${name}`}
              placeholder="what the call gives"
              value={content.variables[name] ?? ""}
              onChange={(value) => edit({ variables: withValue(content.variables, name, value) })}
            />
            {content.variables[name] === undefined && (
              <>
                {" "}
                (here{" "}
                <TextValue
                  label={`Sample of ${name}`}
                  placeholder="a sample"
                  value={content.samples?.[name] ?? ""}
                  onChange={(value) => edit({ samples: orNone(withValue(content.samples ?? {}, name, value)) })}
                />
                )
              </>
            )}
          </span>
        ))}
        {names.length > asked.length && (
          <>
            , the clock being that of{" "}
            <ChoiceValue
              label="Time zone"
              value={content.timeZone ?? "UTC"}
              options={timeZones()}
              isSearched
              onChange={(zone) => edit({ timeZone: zone === "UTC" ? undefined : zone })}
            />
          </>
        )}
        .
        {blocks.length > 0 && (
          <>
            {" "}
            Of its blocks{" "}
            {blocks.map((block, at) => (
              <span key={block}>
                {at > 0 && ", "}
                {block} is{" "}
                <ChoiceValue
                  label={`Block ${block}`}
                  value={off.includes(block) ? "off" : "on"}
                  options={[
                    { value: "on", label: "on" },
                    { value: "off", label: "off" },
                  ]}
                  onChange={(next) => {
                    const others = off.filter((each) => each !== block);
                    const all = next === "off" ? [...others, block] : others;
                    edit({ off: all.length > 0 ? all : undefined });
                  }}
                />
              </span>
            ))}
            .
          </>
        )}{" "}
        <OpeningSentence opening={content.opening} app={app.name} onChange={(opening) => edit({ opening })} />
      </div>
      <p className={sentences.under}>
        <span>
          {app.draftRevision === null
            ? `A draft after revision ${app.latest.number}: the next message makes it a revision.`
            : `Revision ${app.draftRevision}, unchanged.`}
        </span>
        <Action onClick={onEditPrompt}>edit it in row 0</Action>
        <Action onClick={onShowRevisions}>revisions</Action>
        <span>
          Variables: <code>{"{{name}}"}</code>; from the clock <code>{"{{today}}"}</code>, <code>{"{{weekday}}"}</code>,{" "}
          <code>{"{{time}}"}</code>. A block begins with <code>[[its name]]</code> on a line of its own.
        </span>
      </p>
    </>
  );
}

function withValue(values: Record<string, string>, name: string, value: string): Record<string, string> {
  const { [name]: _before, ...others } = values;
  return value === "" ? others : { ...others, [name]: value };
}

function orNone(values: Record<string, string>): Record<string, string> | undefined {
  return Object.keys(values).length > 0 ? values : undefined;
}

/** The time zones that the browser knows. */
function timeZones(): { value: string; label: string }[] {
  const known = Intl.supportedValuesOf("timeZone").filter((zone) => zone !== "UTC");
  return ["UTC", ...known].map((zone) => ({ value: zone, label: zone }));
}
