import type { ReactNode } from "react";
import type { App } from "@/contract/apps";
import { commandFor } from "@/contract/call";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import { replies } from "@/contract/replies";
import type { Forecast } from "@/core/context/forecast";
import { wordFor } from "@/core/problem/problem";
import { clockVariables, variablesIn } from "@/core/revision/variables";
import { wordsOfState } from "../shared/endings";
import { count, duration, many, price } from "../shared/format";
import { modelChoices } from "../shared/queries";
import { ChoiceWord, KeptWord, NumberWord, TextWord } from "../shared/words";
import type { Station } from "./SignalPath";
import styles from "./stations.module.css";
import type { EditedDraft } from "./use-draft";

/** What the sentences of a station are about. */
export interface StationScene {
  app: App;
  draft: EditedDraft;
  providers: Provider[];
  ahead: Forecast;
  last: Extract<LineMessage, { role: "app" }> | undefined;
  onEditPrompt: () => void;
}

/** The sentences of each station: settings are edited where they stand. */
export const sentences: Record<Station, (scene: StationScene) => ReactNode> = {
  Visitor: VisitorSentence,
  Prompt: PromptSentence,
  Memory: MemorySentence,
  Sources: SourcesSentence,
  Model: ModelSentence,
  Reply: ReplySentence,
};

function VisitorSentence({ app }: StationScene) {
  const address = typeof window === "undefined" ? "" : window.location.origin;
  const command = commandFor(replies.ask, address, { slug: app.slug });
  return (
    <>
      <div className={styles.sentence}>
        Here you speak with the draft; callers get revision <b>{app.liveRevision}</b>, the live one.
      </div>
      <p className={styles.under}>
        A caller says: <code>{command}</code>
        <button type="button" className="link" onClick={() => navigator.clipboard.writeText(command)}>
          copy
        </button>
      </p>
    </>
  );
}

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

function MemorySentence({ ahead: { earlier, rows, room } }: StationScene) {
  const out = rows.filter(({ carried, row }) => !carried && row.role === "visitor").length;
  return (
    <>
      <div className={styles.sentence}>
        Carries <b>everything</b>: {many(earlier.turns, "turn")}, about <b>{many(earlier.tokens, "token")}</b>, in a
        window of <b>{count(room.window)}</b>.
      </div>
      <p className={styles.under}>
        {out > 0 ? `Left out now: ${many(out, "turn")} without an answer.` : "Nothing is left out now."} Each turn sends
        more than the one before it.
      </p>
    </>
  );
}

function SourcesSentence() {
  return (
    <div className={styles.sentence}>
      Answers from <b>no documents</b>: there are none yet.
    </div>
  );
}

const noFallback = "none";

function ModelSentence({ draft, providers }: StationScene) {
  const { content, edit } = draft;
  const { temperature, topP, topK, maxOutput, stop = [], seed } = content.settings;
  const choices = modelChoices(providers).map(({ provider, model }) => ({
    value: `${provider.slug} ${model.name}`,
    label: `${model.name} on ${provider.name}`,
  }));
  const chosen = `${content.provider} ${content.model}`;
  const withChosen = (value: string, model: string) =>
    choices.some((each) => each.value === value) ? choices : [{ value, label: `${model} (not offered)` }, ...choices];
  const candidateIn = (value: string) => {
    const space = value.indexOf(" ");
    return { provider: value.slice(0, space), model: value.slice(space + 1) };
  };
  const set = (change: Partial<typeof content.settings>) => {
    const settings = { ...content.settings, ...change };
    edit({ settings: Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined)) });
  };
  const fallbacks = content.fallbacks ?? [];
  const setFallback = (at: number, value: string) => {
    const others = fallbacks.filter((_, place) => place !== at);
    const next = value === noFallback ? others : fallbacks.toSpliced(at, 1, candidateIn(value));
    edit({ fallbacks: next.length === 0 ? undefined : next });
  };
  return (
    <>
      <div className={styles.sentence}>
        Speaks through{" "}
        <ChoiceWord
          label="Model"
          value={chosen}
          options={withChosen(chosen, content.model)}
          onChange={(value) => edit(candidateIn(value))}
        />
        , at temperature{" "}
        <NumberWord
          label="Temperature"
          value={temperature}
          min={0}
          max={2}
          step={0.1}
          empty="its own"
          onChange={(value) => set({ temperature: value })}
        />
        , in at most{" "}
        <NumberWord
          label="Output limit in tokens"
          value={maxOutput}
          min={1}
          max={200_000}
          step={100}
          empty="any number of"
          onChange={(value) => set({ maxOutput: value })}
        />{" "}
        tokens; if that fails, through{" "}
        {[...fallbacks, undefined].slice(0, 5).map((fallback, at) => {
          const value = fallback ? `${fallback.provider} ${fallback.model}` : noFallback;
          const nothing = { value: noFallback, label: at === 0 ? "no other" : "no further one" };
          return (
            <span key={`${at} ${value}`}>
              {at > 0 && ", then "}
              <ChoiceWord
                label={`Fallback ${at + 1}`}
                value={value}
                options={[
                  nothing,
                  ...(fallback ? withChosen(value, fallback.model) : choices).filter((each) => each.value !== chosen),
                ]}
                onChange={(next) => setFallback(at, next)}
              />
            </span>
          );
        })}
        .
      </div>
      <div className={styles.under}>
        <span>
          Top-p{" "}
          <NumberWord
            label="Top-p"
            value={topP}
            min={0.01}
            max={1}
            step={0.05}
            empty="its own"
            onChange={(value) => set({ topP: value })}
          />
          , top-k{" "}
          <NumberWord
            label="Top-k"
            value={topK}
            min={1}
            max={1000}
            empty="its own"
            onChange={(value) => set({ topK: value })}
          />
          , seed{" "}
          <NumberWord
            label="Seed"
            value={seed}
            min={0}
            max={2_147_483_647}
            empty="any"
            onChange={(value) => set({ seed: value })}
          />
          , stop words{" "}
          <KeptWord
            label="Stop words, parted by commas"
            value={stop.join(", ")}
            placeholder="none"
            onKeep={(text) => {
              const words = text
                .split(",")
                .map((word) => word.trim())
                .filter(Boolean)
                .slice(0, 8);
              set({ stop: words.length === 0 ? undefined : words });
            }}
          />
          .
        </span>
      </div>
    </>
  );
}

function ReplySentence({ last }: StationScene) {
  if (!last)
    return (
      <div className={styles.sentence}>
        <b>No reply</b> in this conversation yet.
      </div>
    );
  const { revision, model, provider, usage, firstTextMs, totalMs, problem, insteadOf, failures } = last.facts;
  return (
    <>
      <div className={styles.sentence}>
        The last reply: <b>{problem ? `failed: ${wordFor(problem.kind)}` : wordsOfState(last.state)}</b>
        {totalMs !== undefined && (
          <>
            {" "}
            after <b>{duration(totalMs)}</b>
          </>
        )}
        {usage && (
          <>
            : <b>{count(usage.input)}</b> tokens in, <b>{count(usage.output)}</b> out
            {usage.thought ? `, ${count(usage.thought)} of them thought` : ""}, for{" "}
            <b>{price(usage.price, usage.currency)}</b>
          </>
        )}
        .
      </div>
      <p className={styles.under}>
        <span>
          Made by revision {revision} with {model} on {provider}
          {insteadOf &&
            `, since ${insteadOf.model} on ${insteadOf.provider} failed: ${wordFor(failures?.at(-1)?.problem.kind ?? "internal")}`}
          .
        </span>
        {firstTextMs !== undefined && <span>First text after {duration(firstTextMs)}.</span>}
        {usage?.estimated && <span>The provider did not report its tokens: these are estimated.</span>}
      </p>
    </>
  );
}
