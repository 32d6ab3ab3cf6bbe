import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { type Ref, useEffect, useState } from "react";
import { benchConversations } from "@/contract/conversations";
import { endings } from "@/core/search/filter";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { DateValue } from "../shared/inline/DateValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { useProviderName } from "../shared/ProviderName";
import { keys } from "../shared/queries";
import { cameFrom } from "../shared/wording/origins";
import type { HistoryFilter } from "./filter";
import styles from "./HistoryView.module.css";

/** Milliseconds after a keystroke at which it is searched. */
const patience = 150;
const any = "";

const endingWords: Record<(typeof endings)[number], string> = {
  complete: "complete",
  cut: "cut",
  stopped: "stopped",
  refused: "refused",
  failed: "failed",
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
  filter: HistoryFilter;
  onChange: (filter: HistoryFilter) => void;
  search: Ref<{ focus: () => void }>;
}

/** Which conversations are shown, as a sentence whose words are chosen where they stand. */
export function FilterSentence({ slug, filter, onChange, search }: Props) {
  const [isWhole, setWhole] = useState(false);
  const query = useQuery({
    queryKey: [...keys.conversations(slug), "choices"],
    queryFn: () => server.send(benchConversations.choices, { slug }),
  });
  const { from = [], models = [], revisions = [], tags = [] } = query.data ?? {};
  const nameOf = useProviderName();
  const set = (change: Partial<HistoryFilter>) => onChange({ ...filter, ...change });
  const hasMore = filter.over !== undefined || filter.rated !== undefined || filter.tag !== undefined;
  const isDay = filter.since !== undefined && !sinces.some(([value]) => value === filter.since);
  const origins = withChosen(
    from.map(({ origin, client }) => ({ value: originValue(origin, client), label: cameFrom({ origin, client }) })),
    filter.origin && originValue(filter.origin, filter.client ?? null),
  );
  return (
    <div className={styles.sentence}>
      Shows{" "}
      <ChoiceValue
        label="Which"
        value={filter.deleted ?? any}
        options={[
          { value: any, label: "conversations" },
          { value: "yes", label: "deleted conversations" },
        ]}
        onChange={(value) => set({ deleted: value === "yes" ? "yes" : undefined })}
      />{" "}
      of{" "}
      <ChoiceValue
        label="Origin"
        value={filter.origin ? originValue(filter.origin, filter.client ?? null) : any}
        options={[{ value: any, label: "any origin" }, ...origins]}
        onChange={(value) => {
          const [origin, client] = value.split("\n");
          set({ origin: (origin || undefined) as HistoryFilter["origin"], client: client || undefined });
        }}
      />
      , made by{" "}
      <ChoiceValue
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
      <ChoiceValue
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
      <ChoiceValue
        label="Time"
        value={isDay ? "day" : (filter.since ?? any)}
        options={sinces.map(([value, label]) => ({ value, label }))}
        onChange={(value) => set({ since: value === "day" ? today() : value || undefined })}
      />
      {isDay && (
        <>
          {" "}
          <DateValue label="Day" value={filter.since ?? ""} onChange={(since) => set({ since })} />
        </>
      )}
      , ended{" "}
      <ChoiceValue
        label="Ending"
        value={filter.ended ?? any}
        options={[
          { value: any, label: "in any way" },
          ...endings.map((ending) => ({ value: ending, label: endingWords[ending] })),
        ]}
        onChange={(value) => set({ ended: (value || undefined) as HistoryFilter["ended"] })}
      />
      {(isWhole || hasMore) && (
        <>
          , that cost{" "}
          <NumberValue
            label="Price above"
            value={filter.over}
            min={0}
            max={1_000_000}
            step={0.01}
            none={{ said: "anything" }}
            onChange={(over) => set({ over })}
          />
          {filter.over === undefined ? "" : " or more"}, with{" "}
          <ChoiceValue
            label="Mark"
            value={filter.rated ?? any}
            options={[
              { value: any, label: "any mark or none" },
              { value: "good", label: "a good one" },
              { value: "bad", label: "a bad one" },
            ]}
            onChange={(value) => set({ rated: (value || undefined) as HistoryFilter["rated"] })}
          />
          , tagged{" "}
          <ChoiceValue
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
      <SearchField ref={search} value={filter.words ?? ""} onChange={(next) => set({ words: next || undefined })} />.
      {!isWhole && !hasMore && (
        <>
          {" "}
          <Action className={styles.further} onClick={() => setWhole(true)}>
            price, marks, tags
          </Action>
        </>
      )}
    </div>
  );
}

/** What is searched, as one types: each keystroke waits a moment for the next. */
function SearchField({
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
