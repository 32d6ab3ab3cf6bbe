import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { type Ref, useEffect, useState } from "react";
import { benchConversations } from "@/contract/conversations";
import { endings } from "@/core/search/filter";
import { server } from "../shared/api";
import { cameFrom } from "../shared/origins";
import { useProviderName } from "../shared/ProviderName";
import { keys } from "../shared/queries";
import { ChoiceWord, NumberWord } from "../shared/words";
import type { FilterWords } from "./filter-words";
import styles from "./HistoryView.module.css";

/** Milliseconds after a keystroke at which it is searched. */
const patience = 150;
const any = "";

const endingWords: Record<(typeof endings)[number], string> = {
  complete: "one was complete",
  cut: "one was cut",
  stopped: "one was stopped",
  refused: "one was refused",
  failed: "one failed",
};
const sinces: [string, string][] = [
  [any, "at any time"],
  ["today", "today"],
  ["yesterday", "since yesterday"],
  ["week", "in the last 7 days"],
  ["month", "in the last 30 days"],
  ["day", "since a day"],
];

interface Props {
  slug: string;
  filter: FilterWords;
  onChange: (filter: FilterWords) => void;
  words: Ref<{ focus: () => void }>;
}

/** Which conversations are shown, as a sentence whose words are chosen where they stand. */
export function FilterSentence({ slug, filter, onChange, words }: Props) {
  const [isWhole, setWhole] = useState(false);
  const query = useQuery({
    queryKey: [...keys.conversations(slug), "choices"],
    queryFn: () => server.send(benchConversations.choices, { slug }),
  });
  const { from = [], models = [], revisions = [], tags = [] } = query.data ?? {};
  const nameOf = useProviderName();
  const set = (change: Partial<FilterWords>) => onChange({ ...filter, ...change });
  const hasMore = filter.over !== undefined || filter.rated !== undefined || filter.tag !== undefined;
  const isDay = filter.since !== undefined && !sinces.some(([value]) => value === filter.since);
  const origins = withChosen(
    from.map(({ origin, client }) => ({ value: originValue(origin, client), label: cameFrom({ origin, client }) })),
    filter.origin && originValue(filter.origin, filter.client ?? null),
  );
  return (
    <div className={styles.sentence}>
      Shows{" "}
      <ChoiceWord
        label="Which"
        value={filter.deleted ?? any}
        options={[
          { value: any, label: "conversations" },
          { value: "yes", label: "deleted conversations" },
        ]}
        onChange={(value) => set({ deleted: value === "yes" ? "yes" : undefined })}
      />{" "}
      of{" "}
      <ChoiceWord
        label="Origin"
        value={filter.origin ? originValue(filter.origin, filter.client ?? null) : any}
        options={[{ value: any, label: "any origin" }, ...origins]}
        onChange={(value) => {
          const [origin, client] = value.split("\n");
          set({ origin: (origin || undefined) as FilterWords["origin"], client: client || undefined });
        }}
      />
      , made by{" "}
      <ChoiceWord
        label="Revision"
        value={String(filter.revision ?? any)}
        options={[
          { value: any, label: "any revision" },
          ...withChosen(
            revisions.map((number) => ({ value: String(number), label: `revision ${number}` })),
            filter.revision === undefined ? undefined : String(filter.revision),
          ),
        ]}
        onChange={(value) => set({ revision: value === any ? undefined : Number(value) })}
      />{" "}
      on{" "}
      <ChoiceWord
        label="Model"
        value={filter.model ?? any}
        options={[
          { value: any, label: "any model" },
          ...withChosen(
            models.map((made) => ({ value: made, label: modelIn(made, nameOf) })),
            filter.model,
          ),
        ]}
        onChange={(value) => set({ model: value || undefined })}
      />
      , touched{" "}
      <ChoiceWord
        label="Time"
        value={isDay ? "day" : (filter.since ?? any)}
        options={sinces.map(([value, label]) => ({ value, label }))}
        onChange={(value) => set({ since: value === "day" ? today() : value || undefined })}
      />
      {isDay && (
        <>
          {" "}
          <input
            className={styles.day}
            type="date"
            aria-label="Day"
            value={filter.since}
            onChange={({ target }) => target.value && set({ since: target.value })}
          />
        </>
      )}
      , however{" "}
      <ChoiceWord
        label="Ending"
        value={filter.ended ?? any}
        options={[
          { value: any, label: "they ended" },
          ...endings.map((ending) => ({ value: ending, label: endingWords[ending] })),
        ]}
        onChange={(value) => set({ ended: (value || undefined) as FilterWords["ended"] })}
      />
      {(isWhole || hasMore) && (
        <>
          , that cost{" "}
          <NumberWord
            label="Price above"
            value={filter.over}
            min={0}
            max={1_000_000}
            step={0.01}
            empty="anything"
            onChange={(over) => set({ over })}
          />
          {filter.over === undefined ? "" : " or more"}, with{" "}
          <ChoiceWord
            label="Mark"
            value={filter.rated ?? any}
            options={[
              { value: any, label: "any mark or none" },
              { value: "good", label: "a good one" },
              { value: "bad", label: "a bad one" },
            ]}
            onChange={(value) => set({ rated: (value || undefined) as FilterWords["rated"] })}
          />
          , tagged{" "}
          <ChoiceWord
            label="Tag"
            value={filter.tag ?? any}
            options={[
              { value: any, label: "or not" },
              ...withChosen(
                tags.map((tag) => ({ value: tag, label: tag })),
                filter.tag,
              ),
            ]}
            onChange={(value) => set({ tag: value || undefined })}
          />
        </>
      )}
      , that speak of{" "}
      <Words ref={words} value={filter.words ?? ""} onChange={(next) => set({ words: next || undefined })} />.
      {!isWhole && !hasMore && (
        <>
          {" "}
          <button type="button" className={`link ${styles.further}`} onClick={() => setWhole(true)}>
            price, marks, tags
          </button>
        </>
      )}
    </div>
  );
}

/** What is searched, as one types: each keystroke waits a moment for the next. */
function Words({
  value,
  onChange,
  ref,
}: {
  value: string;
  onChange: (value: string) => void;
  ref: Ref<{ focus: () => void }>;
}) {
  const [typed, setTyped] = useState(value);
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    setTyped(value);
  }
  useEffect(() => {
    if (typed === value) return;
    const timer = setTimeout(() => onChange(typed), patience);
    return () => clearTimeout(timer);
  });
  return (
    <Input
      ref={ref as never}
      className={styles.words}
      aria-label="Words"
      aria-keyshortcuts="/"
      variant="borderless"
      maxLength={300}
      placeholder="anything"
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
    />
  );
}

interface Option {
  value: string;
  label: string;
}

/** Options with the one that is chosen, also where there is no such conversation any more. */
function withChosen(options: Option[], chosen: string | undefined): Option[] {
  if (!chosen || options.some(({ value }) => value === chosen)) return options;
  return [...options, { value: chosen, label: chosen.replace("\n", " · ") }];
}

function originValue(origin: string, client: string | null): string {
  return client === null ? origin : `${origin}\n${client}`;
}

/** "reed-deep on Reedbed", of a provider's lasting name and a model with a space between. */
function modelIn(made: string, nameOf: (slug: string) => string): string {
  const space = made.indexOf(" ");
  return `${made.slice(space + 1)} on ${nameOf(made.slice(0, space))}`;
}

function today(): string {
  const now = new Date();
  return `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, "0")}-${String(now.getDate()).padStart(2, "0")}`;
}
