import { Button, Checkbox, Input } from "antd";
import { Fragment, useState } from "react";
import type { ChangeProvider, Provider } from "@/contract/providers";
import type { Standing } from "@/contract/tries";
import { abilities, type Model, modelSchema, unknownModel } from "@/core/provider/model";
import type { PictureTokens } from "@/core/tokens/picture-tokens";
import { Action } from "../shared/Action";
import { ConfirmAction } from "../shared/Confirm";
import { many, moment } from "../shared/format";
import { NumberValue } from "../shared/inline/NumberValue";
import styles from "./ModelTable.module.css";

const sayings: Record<(typeof abilities)[number], string> = {
  thought: "thinks",
  pictures: "sees pictures",
  tools: "calls tools",
  json: "keeps to a schema",
  vectors: "makes vectors",
};
const shownAtOnce = 12;
/** Prices that are those of their side unless something else is said. */
const further = [
  { part: "cachedInput", label: "in, from its cache" },
  { part: "cacheWrite", label: "in, put into its cache" },
  { part: "thought", label: "out, reasoning" },
] as const;

/** The models of a provider: those that are kept, and those that it lists. */
export function ModelTable({
  provider,
  standing,
  onChange,
  onSwitchOn,
}: {
  provider: Provider;
  standing: Standing | undefined;
  onChange: (change: ChangeProvider) => Promise<boolean>;
  onSwitchOn: (model: string) => void;
}) {
  // what is only told of a model is not sent back with it
  const models = provider.models.map((model) => modelSchema.strip().parse(model));
  const put = (name: string, change: Partial<Model>) =>
    void onChange({ models: models.map((model) => (model.name === name ? { ...model, ...change } : model)) });
  const [opened, setOpened] = useState<string>();
  const number = (label: string, value: number | undefined, max: number, onKeep: (value: number) => void, step = 1) => (
    <NumberValue
      label={label}
      value={value}
      min={0}
      max={max}
      step={step}
      none={{ said: "not set", stays: true }}
      onChange={(next) => next !== undefined && onKeep(next)}
    />
  );
  return (
    <>
      <table className={styles.models}>
        <thead>
          <tr>
            <th scope="col">Model</th>
            <th scope="col">Offered</th>
            <th scope="col">Window</th>
            <th scope="col">€ per million in</th>
            <th scope="col">and out</th>
            <th scope="col">Abilities</th>
            <th scope="col">Estimates of tokens</th>
            <th scope="col">
              <span className="unseen">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {provider.models.map(
            ({ name, window, isWindowGuessed, price, isOn, can, pictureTokens, calibration, version }) => {
              const { isUnset, ...known } = price;
              const listed = standing?.models.find((each) => each.name === name);
              return (
                <Fragment key={name}>
                  <tr>
                    <th scope="row">
                      {name}
                      {version && version.version !== name && (
                        <small className={styles.version}>
                          answers as {version.version} since {moment(version.since, Date.now())}
                          {version.before && `, before as ${version.before}`}
                        </small>
                      )}
                      {listed?.isOn === false && (
                        <small data-standing="caution">
                          {" "}
                          not switched on there <Action onClick={() => onSwitchOn(name)}>switch it on</Action>
                        </small>
                      )}
                      {standing && !standing.problem && standing.models.length > 0 && !listed && (
                        <small data-standing="caution"> not listed there</small>
                      )}
                    </th>
                    <td>
                      <Checkbox
                        checked={isOn}
                        aria-label={`Offer ${name} to apps`}
                        onChange={(event) => put(name, { isOn: event.target.checked })}
                      />
                    </td>
                    <td>
                      {number(`Context window of ${name}`, window, 100_000_000, (next) =>
                        put(name, { window: Math.max(Math.round(next), 1), isWindowGuessed: false }),
                      )}
                      {isWindowGuessed && (
                        <small data-standing="caution">
                          {" "}
                          a guess{" "}
                          <Action
                            aria-label={`The window of ${name} is right`}
                            onClick={() => put(name, { isWindowGuessed: false })}
                          >
                            it is right
                          </Action>
                        </small>
                      )}
                    </td>
                    <td>
                      {number(
                        `Price in of ${name}`,
                        isUnset ? undefined : price.input,
                        100_000,
                        (input) => put(name, { price: { ...known, input } }),
                        0.01,
                      )}
                    </td>
                    <td>
                      {number(
                        `Price out of ${name}`,
                        isUnset ? undefined : price.output,
                        100_000,
                        (output) => put(name, { price: { ...known, output } }),
                        0.01,
                      )}
                      <Action
                        aria-expanded={opened === name}
                        aria-label={`Further prices of ${name}`}
                        onClick={() => setOpened(opened === name ? undefined : name)}
                      >
                        further
                      </Action>
                    </td>
                    <td>
                      <div className={styles.can}>
                        {abilities.map((ability) => (
                          <Checkbox
                            key={ability}
                            checked={can?.includes(ability)}
                            onChange={(event) =>
                              put(name, {
                                can: event.target.checked
                                  ? [...(can ?? []), ability]
                                  : can?.filter((each) => each !== ability),
                              })
                            }
                          >
                            {sayings[ability]}
                          </Checkbox>
                        ))}
                        {can === undefined && <small>not known: what is sent is tried</small>}
                      </div>
                    </td>
                    <td>
                      {calibration.calls === 0
                        ? "not known yet"
                        : `${calibration.off === null ? "" : `off by ${(calibration.off * 100).toFixed(1)}% over `}${many(calibration.calls, "count")}`}
                    </td>
                    <td>
                      <ConfirmAction
                        aria-label={`Delete ${name}`}
                        question={`Delete ${name} from ${provider.name}?`}
                        says="Its prices, and what was learned of how it counts tokens, go with it; it can be added again without them."
                        does="Delete it for good"
                        onDo={() => onChange({ models: models.filter((each) => each.name !== name) })}
                      >
                        delete
                      </ConfirmAction>
                    </td>
                  </tr>
                  {opened === name && (
                    <tr>
                      <td colSpan={8} className={styles.further}>
                        Per million:{" "}
                        {further.map(({ part, label }) => (
                          <span key={part}>
                            {label}{" "}
                            <NumberValue
                              label={`${label}, price of ${name}`}
                              value={price[part]}
                              min={0}
                              max={100_000}
                              step={0.01}
                              none={{ said: "the same" }}
                              onChange={(next) => put(name, { price: { ...known, [part]: next } })}
                            />
                          </span>
                        ))}
                        {(can === undefined || can.includes("pictures")) && (
                          <PictureCounts
                            name={name}
                            counts={pictureTokens}
                            onKeep={(next) => put(name, { pictureTokens: next })}
                          />
                        )}
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            },
          )}
        </tbody>
      </table>
      <AddModel models={models} standing={standing} onAdd={(model) => onChange({ models: [...models, model] })} />
    </>
  );
}

/** How many tokens a model counts a picture for, where somebody knows it. */
function PictureCounts({
  name,
  counts,
  onKeep,
}: {
  name: string;
  counts: PictureTokens | undefined;
  onKeep: (counts: PictureTokens | undefined) => void;
}) {
  if (!counts)
    return (
      <p>
        What a picture counts for is learned from what the provider reports.{" "}
        <Action aria-label={`Say what a picture counts for at ${name}`} onClick={() => onKeep(usualCounts)}>
          say it
        </Action>
      </p>
    );
  return (
    <p>
      A picture counts{" "}
      {pictureParts.map(({ part, label, after }) => (
        <span key={part}>
          <NumberValue
            label={`${label}, tokens at ${name}`}
            value={counts[part]}
            min={0}
            max={1_000_000}
            step={part === "kilopixel" ? 0.01 : 1}
            onChange={(next) => next !== undefined && onKeep({ ...counts, [part]: next })}
          />{" "}
          {after}
        </span>
      ))}{" "}
      <Action aria-label={`Learn what a picture counts for at ${name}`} onClick={() => onKeep(undefined)}>
        learn it instead
      </Action>
    </p>
  );
}

const usualCounts: PictureTokens = { each: 80, tile: 100, kilopixel: 0 };
const pictureParts = [
  { part: "each", label: "Each picture", after: "tokens by itself, " },
  { part: "tile", label: "Each tile", after: "for each tile of 512 by 512 pixels, and " },
  { part: "kilopixel", label: "Each thousand pixels", after: "for each thousand pixels." },
] as const;

function AddModel({
  models,
  standing,
  onAdd,
}: {
  models: Model[];
  standing: Standing | undefined;
  onAdd: (model: Model) => Promise<boolean>;
}) {
  const [filter, setFilter] = useState("");
  const known = new Set(models.map(({ name }) => name));
  const others = (standing?.models ?? []).filter(({ name }) => !known.has(name));
  const found = others.filter(({ name }) => name.toLowerCase().includes(filter.trim().toLowerCase()));
  const typed = filter.trim();
  const add = async (name: string, window: number | null) => {
    if (await onAdd(unknownModel(name, window))) setFilter("");
  };
  return (
    <div className={styles.add}>
      <Input
        aria-label="Find or type a model"
        placeholder={
          others.length > 0
            ? `Find among ${many(others.length, "other model")} that it lists, or type a name`
            : "Type the name of another model"
        }
        value={filter}
        onChange={(event) => setFilter(event.target.value)}
        onPressEnter={() => typed !== "" && !known.has(typed) && void add(typed, found[0]?.window ?? null)}
      />
      {typed !== "" && !known.has(typed) && !others.some(({ name }) => name === typed) && (
        <Button onClick={() => void add(typed, null)}>Add {typed}</Button>
      )}
      {(typed !== "" || others.length <= shownAtOnce) &&
        found.slice(0, shownAtOnce).map(({ name, window }) => (
          <Button key={name} onClick={() => void add(name, window)}>
            Add {name}
          </Button>
        ))}
      {typed !== "" && found.length > shownAtOnce && (
        <small>and {many(found.length - shownAtOnce, "other")}: type more of the name</small>
      )}
    </div>
  );
}
