import { useState } from "react";
import { largestPicture } from "@/core/pictures/picture";
import { type Tellable, tellable } from "@/core/reply/told";
import {
  type Access,
  broughtKinds,
  callerSettings,
  type documentAddresses,
  originSchema,
  sentFrom,
} from "@/core/serving/access";
import { keptDays } from "@/core/serving/sent";
import { largestDocument } from "@/core/sources/origin";
import { Action } from "../shared/Action";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { FormText } from "../shared/inline/FormText";
import { NumberValue } from "../shared/inline/NumberValue";
import { modelChoices, useProviders } from "../shared/queries";
import { settingWords } from "../shared/wording/settings";
import styles from "./ServeView.module.css";

type Allow = (access: Partial<Access>) => void;

/** The origins whose pages may call. */
export function Origins({ origins, allow }: { origins: string[]; allow: Allow }) {
  const [text, setText] = useState("");
  const add = originSchema.safeParse(text.trim());
  const isNew = add.success && !origins.includes(add.data);
  return (
    <div className={styles.unfolded}>
      <p>
        Pages of these origins may call, and may show the page in a frame. Each is exact; what was refused is listed
        below, and is allowed with one click.
      </p>
      <ul className={styles.plain}>
        {origins.map((origin) => (
          <li key={origin}>
            <code>{origin}</code>{" "}
            <Action
              aria-label={`Allow ${origin} no more`}
              onClick={() => allow({ origins: origins.filter((each) => each !== origin) })}
            >
              allow no more
            </Action>
          </li>
        ))}
      </ul>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!isNew) return;
          allow({ origins: [...origins, add.data] });
          setText("");
        }}
      >
        Allow <FormText label="Origin to allow" placeholder="http://localhost:5173" value={text} onChange={setText} />{" "}
        <Action type="submit" disabled={!isNew}>
          allow it
        </Action>
        {text !== "" && !add.success && <small className={styles.wrong}> It {add.error.issues[0]?.message}.</small>}
      </form>
    </div>
  );
}

const broughtWords: Record<(typeof broughtKinds)[number], string> = {
  tools: "tools of their own, which they answer",
  schema: "a schema of their own that the reply has to fit",
};
const toldWords: Record<Tellable, string> = {
  thoughts: "thoughts",
  counts: "tokens",
  price: "price",
  model: "provider and model",
  tools: "calls of tools and their answers",
};

const fromWords: Record<(typeof sentFrom)[number], string> = {
  page: "the visitors' page",
  calls: "calls of the endpoints",
};
const addressChoices: { value: (typeof documentAddresses)[number]; label: string }[] = [
  { value: "none", label: "file alone" },
  { value: "public", label: "file, or address of the internet" },
  { value: "any", label: "file, or any address, of this machine and its network too" },
];
const mega = 1024 * 1024;

/** From where something is taken: each can be ticked. */
function FromChoice({
  from,
  change,
}: {
  from: Access["pictures"]["from"];
  change: (from: Access["pictures"]["from"]) => void;
}) {
  return sentFrom.map((each) => (
    <label key={each}>
      <input
        type="checkbox"
        checked={from.includes(each)}
        onChange={() => change(from.includes(each) ? from.filter((other) => other !== each) : [...from, each])}
      />{" "}
      {fromWords[each]}
    </label>
  ));
}

/** Limits, and what callers may see and choose. */
export function Choices({
  access,
  allow,
  limit,
}: {
  access: Access;
  allow: Allow;
  limit: (change: Partial<Access["limits"]>) => void;
}) {
  const { limits, models, settings, shows, pictures, documents } = access;
  const { data } = useProviders();
  const offered = modelChoices(data?.providers ?? []).map(({ provider, model }) => ({
    provider: provider.slug,
    model: model.name,
    label: `${model.name} on ${provider.name}`,
  }));
  const isAllowed = (each: { provider: string; model: string }) =>
    models.some(({ provider, model }) => provider === each.provider && model === each.model);
  return (
    <div className={styles.unfolded}>
      <div>
        A limit of a minute counts messages that are to be answered, each take of a reply as one: at most{" "}
        <NumberValue
          label="Calls a minute from one address"
          value={limits.address ?? undefined}
          min={1}
          max={100_000}
          none={{ said: "any number of", choose: "no limit" }}
          onChange={(value) => limit({ address: value ?? null })}
        />{" "}
        from one address, and{" "}
        <NumberValue
          label="Calls a minute in all"
          value={limits.app ?? undefined}
          min={1}
          max={100_000}
          none={{ said: "any number of", choose: "no limit" }}
          onChange={(value) => limit({ app: value ?? null })}
        />{" "}
        from all callers together. The limit of a day counts what all replies cost, those at the bench, summaries and
        what was said again among them: they may cost{" "}
        <NumberValue
          label="What the calls of a day may cost"
          value={limits.day ?? undefined}
          min={0}
          max={1_000_000}
          step={0.01}
          none={{ said: "anything", choose: "no limit" }}
          onChange={(value) => limit({ day: value ?? null })}
        />
        {limits.day === null ? "" : " € at most"}. A message has at most{" "}
        <NumberValue
          label="Characters of a message"
          value={limits.message}
          min={1}
          max={1_000_000}
          step={1_000}
          onChange={(value) => value && limit({ message: value })}
        />{" "}
        characters.
      </div>
      <fieldset className={styles.checks}>
        <legend>Callers are told, beside the words of a reply</legend>
        {tellable.map((name) => (
          <label key={name}>
            <input
              type="checkbox"
              checked={shows.includes(name)}
              onChange={() =>
                allow({ shows: shows.includes(name) ? shows.filter((each) => each !== name) : [...shows, name] })
              }
            />{" "}
            {toldWords[name]}
          </label>
        ))}
        <small>Visitors of the page are told what its look shows, and never which model answers.</small>
      </fieldset>
      <fieldset className={styles.checks}>
        <legend>Pictures are taken, where the model sees them, from</legend>
        <FromChoice from={pictures.from} change={(from) => allow({ pictures: { ...pictures, from } })} />
        <small>
          At most{" "}
          <NumberValue
            label="Pictures of a message"
            value={pictures.most}
            min={1}
            max={10}
            onChange={(most) => most && allow({ pictures: { ...pictures, most } })}
          />{" "}
          in a message, each of at most{" "}
          <NumberValue
            label="Megabytes of a picture"
            value={pictures.largest / mega}
            min={0.1}
            max={largestPicture / mega}
            step={0.1}
            onChange={(size) => size && allow({ pictures: { ...pictures, largest: Math.round(size * mega) } })}
          />{" "}
          MiB. What stands in their files beside what they show, such as a place, is taken out.
        </small>
      </fieldset>
      <fieldset className={styles.checks}>
        <legend>Documents of a visitor’s own, which nobody else is answered from, are taken from</legend>
        <FromChoice from={documents.from} change={(from) => allow({ documents: { ...documents, from } })} />
        <small>
          At most{" "}
          <NumberValue
            label="Documents of a visitor"
            value={documents.most}
            min={1}
            max={50}
            onChange={(most) => most && allow({ documents: { ...documents, most } })}
          />{" "}
          for each visitor, of at most{" "}
          <NumberValue
            label="Megabytes of a document"
            value={documents.largest / mega}
            min={0.1}
            max={largestDocument / mega}
            step={1}
            onChange={(size) => size && allow({ documents: { ...documents, largest: Math.round(size * mega) } })}
          />{" "}
          MiB, by{" "}
          <ChoiceValue
            label="Addresses of documents"
            value={documents.addresses}
            options={addressChoices}
            onChange={(addresses) => allow({ documents: { ...documents, addresses } })}
          />
          . One is forgotten when its visitor says so or is forgotten, or asks nothing for {keptDays} days; the
          conversations in which something of it was found go with it.
        </small>
      </fieldset>
      <fieldset className={styles.checks}>
        <legend>
          Callers may choose by <code>with</code>, or bring along
        </legend>
        {offered.map((each) => (
          <label key={each.label}>
            <input
              type="checkbox"
              checked={isAllowed(each)}
              onChange={() =>
                allow({
                  models: isAllowed(each)
                    ? models.filter(({ provider, model }) => provider !== each.provider || model !== each.model)
                    : [...models, { provider: each.provider, model: each.model }],
                })
              }
            />{" "}
            {each.label}
          </label>
        ))}
        <label>
          <input type="checkbox" checked={access.system} onChange={() => allow({ system: !access.system })} /> a system
          message after the app's prompt
        </label>
        {broughtKinds.map((kind) => (
          <label key={kind}>
            <input
              type="checkbox"
              checked={access.brings.includes(kind)}
              onChange={() =>
                allow({
                  brings: access.brings.includes(kind)
                    ? access.brings.filter((each) => each !== kind)
                    : [...access.brings, kind],
                })
              }
            />{" "}
            {broughtWords[kind]}
          </label>
        ))}
        {callerSettings.map((name) => (
          <label key={name}>
            <input
              type="checkbox"
              checked={settings.includes(name)}
              onChange={() =>
                allow({
                  settings: settings.includes(name) ? settings.filter((each) => each !== name) : [...settings, name],
                })
              }
            />{" "}
            {settingWords[name]}
          </label>
        ))}
      </fieldset>
    </div>
  );
}
