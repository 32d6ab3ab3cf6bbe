import type { Provider } from "@/contract/providers";
import type { Content } from "@/core/revision/content";
import { type ModelChoice, ModelValue } from "../inline/ModelValue";
import { NumberValue } from "../inline/NumberValue";
import { TextValue } from "../inline/TextValue";
import { OwnSettingValue } from "./OwnSettingValue";
import styles from "./sentences.module.css";

/** Who speaks, and how: the model, its settings, and who answers where it fails. */
export function ModelSentence({
  content,
  edit,
  providers,
}: {
  content: Content;
  edit: (change: Partial<Content>) => void;
  providers: readonly Provider[];
}) {
  const { temperature, topP, topK, maxOutput, stop = [], seed, own = {} } = content.settings;
  const ownSettings =
    providers.find(({ slug }) => slug === content.provider)?.models.find(({ name }) => name === content.model)
      ?.ownSettings ?? [];
  const chosen = { provider: content.provider, model: content.model };
  const set = (change: Partial<typeof content.settings>) => {
    const settings = { ...content.settings, ...change };
    edit({ settings: Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined)) });
  };
  const fallbacks = content.fallbacks ?? [];
  const setFallback = (at: number, next: ModelChoice | undefined) => {
    const left = next ? fallbacks.toSpliced(at, 1, next) : fallbacks.filter((_, place) => place !== at);
    edit({ fallbacks: left.length === 0 ? undefined : left });
  };
  return (
    <>
      <div className={styles.sentence}>
        Speaks through{" "}
        <ModelValue label="Model" providers={providers} value={chosen} onChange={(choice) => choice && edit(choice)} />,
        at temperature{" "}
        <NumberValue
          label="Temperature"
          value={temperature}
          min={0}
          max={2}
          step={0.1}
          none={{ said: "its own" }}
          onChange={(value) => set({ temperature: value })}
        />
        , in at most{" "}
        <NumberValue
          label="Output limit in tokens"
          value={maxOutput}
          min={1}
          max={200_000}
          step={100}
          none={{ said: "any number of" }}
          onChange={(value) => set({ maxOutput: value })}
        />{" "}
        tokens; if that fails, through{" "}
        {[...fallbacks, undefined].slice(0, 5).map((fallback, at) => (
          <span key={`${at} ${fallback?.provider} ${fallback?.model}`}>
            {at > 0 && ", then "}
            <ModelValue
              label={`Fallback ${at + 1}`}
              providers={providers}
              value={fallback}
              none={at === 0 ? "no other" : "no further one"}
              except={chosen}
              onChange={(next) => setFallback(at, next)}
            />
          </span>
        ))}
        .
      </div>
      <div className={styles.under}>
        <span>
          Top-p{" "}
          <NumberValue
            label="Top-p"
            value={topP}
            min={0.01}
            max={1}
            step={0.05}
            none={{ said: "its own" }}
            onChange={(value) => set({ topP: value })}
          />
          , top-k{" "}
          <NumberValue
            label="Top-k"
            value={topK}
            min={1}
            max={1000}
            none={{ said: "its own" }}
            onChange={(value) => set({ topK: value })}
          />
          , seed{" "}
          <NumberValue
            label="Seed"
            value={seed}
            min={0}
            max={2_147_483_647}
            none={{ said: "any" }}
            onChange={(value) => set({ seed: value })}
          />
          , stop words{" "}
          <TextValue
            label="Stop words, parted by commas"
            value={stop.join(", ")}
            placeholder="none"
            onChange={(text) => {
              const words = text
                .split(",")
                .map((word) => word.trim())
                .filter(Boolean)
                .slice(0, 8);
              set({ stop: words.length === 0 ? undefined : words });
            }}
          />
          {ownSettings.map((setting) => (
            <span key={setting.name}>
              , {setting.says}{" "}
              <OwnSettingValue
                setting={setting}
                value={own[setting.name]}
                onChange={(value) => {
                  const { [setting.name]: _before, ...others } = own;
                  const next = value === undefined ? others : { ...others, [setting.name]: value };
                  set({ own: Object.keys(next).length === 0 ? undefined : next });
                }}
              />
            </span>
          ))}
          .
        </span>
      </div>
    </>
  );
}
