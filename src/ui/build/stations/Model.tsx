import { failsCall, wordFor } from "@/core/problem/problem";
import { isUnderWay } from "@/core/reply/reply";
import { duration } from "../../shared/format";
import { modelChoices } from "../../shared/queries";
import { ChoiceWord, KeptWord, NumberWord } from "../../shared/words";
import type { Mark, ReplyScene, Station, StationScene } from "./station";
import styles from "./stations.module.css";

/** Who speaks. */
export const model: Station = {
  name: "Model",
  reading: ({ draft: { content }, providers }) =>
    `${content.model} on ${providers.find(({ slug }) => slug === content.provider)?.name ?? "nothing"}`,
  mark: markOf,
  Sentence: ModelSentence,
};

function markOf({ reply, waited, facts: { firstTextMs } }: ReplyScene): Mark {
  if (reply.problem && failsCall(reply.problem.kind) && reply.pieces.length === 0)
    return { state: "failed", reading: wordFor(reply.problem.kind) };
  if (isUnderWay(reply.state) && reply.pieces.length === 0 && reply.next)
    return {
      state: "at",
      time: duration(waited),
      reading: `${wordFor(reply.next.because.kind)}: attempt ${reply.next.attempt}, ${reply.next.model}`,
    };
  if (reply.state === "waiting" || (reply.state === "arriving" && reply.pieces.length === 0))
    return { state: "at", time: duration(waited), reading: reply.thought ? "thinking" : undefined };
  return { state: "done", before: "first text ", time: firstTextMs === undefined ? undefined : duration(firstTextMs) };
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
