import { Checkbox } from "antd";
import {
  flawOfPattern,
  type Guard,
  type GuardAct,
  guardSchema,
  type LooksFor,
  longestName,
  mostWords,
  usualSaying,
} from "@/core/guards/guard";
import { harmlessTexts, measuredPersonal } from "@/core/guards/measured";
import { personalKinds } from "@/core/guards/personal";
import { Action } from "../../shared/Action";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { LinesValue } from "../../shared/inline/LinesValue";
import { ModelValue } from "../../shared/inline/ModelValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { TextValue } from "../../shared/inline/TextValue";
import type { Read } from "../../shared/inline/taken";
import { modelChoices, useProviders } from "../../shared/queries";
import { personalWords, wordsOfHold } from "../../shared/wording/guards";
import styles from "./Guards.module.css";
import { TryGuard } from "./TryGuard";

type Kind = LooksFor["kind"];

const kindWords: Record<Kind, string> = {
  personal: "personal data",
  words: "words",
  pattern: "a pattern",
  length: "its length",
  prompt: "its own prompt repeated",
  judge: "what a judge says",
};

const kindsOn: Record<Guard["on"], readonly Kind[]> = {
  sent: ["personal", "words", "pattern", "length"],
  shown: ["personal", "words", "pattern", "prompt", "judge"],
};

/** One rule as sentences whose values are edited where they stand, and what it would have caught. */
export function GuardEditor({
  app,
  guard,
  others,
  onChange,
  onDelete,
}: {
  app: string;
  guard: Guard;
  /** Names that are taken. */
  others: readonly string[];
  onChange: (guard: Guard) => void;
  onDelete: () => void;
}) {
  const { on, looksFor, does, says, except = [], putsBack, isOff } = guard;
  const providers = useProviders().data?.providers ?? [];
  const [offered] = modelChoices(providers);
  const first = offered && { provider: offered.provider.slug, model: offered.model.name };
  /** Changes it; what does not go together with the change is given up. */
  const set = (change: Partial<Guard>) => onChange(fitting({ ...guard, ...change }));
  const look = (kind: Kind) => {
    const next = begunLook(kind, first);
    if (next) set({ looksFor: next, does: kind === "judge" || kind === "length" ? "refuse" : does });
  };
  const acts: { value: GuardAct; label: string }[] = [
    { value: "refuse", label: on === "sent" ? "answers without asking the model" : "refuses the rest of the reply" },
    ...(looksFor.kind === "length" || looksFor.kind === "judge" ? [] : [{ value: "mask" as const, label: "masks it" }]),
    { value: "mark", label: "only marks that it was there" },
  ];
  return (
    <div className={styles.guard}>
      <div>
        <TextValue
          label="Name of the guard"
          value={guard.name}
          maxLength={longestName}
          read={(text) => nameIn(text, others)}
          onChange={(name) => set({ name })}
        />{" "}
        looks for{" "}
        <ChoiceValue<Kind>
          label="What the guard looks for"
          value={looksFor.kind}
          options={kindsOn[on].map((kind) => ({ value: kind, label: kindWords[kind] }))}
          onChange={look}
        />
        {looksFor.kind === "length" && (
          <>
            : more than{" "}
            <NumberValue
              label="Characters that a message may have"
              value={looksFor.most}
              min={1}
              max={1_000_000}
              onChange={(most) => most !== undefined && set({ looksFor: { kind: "length", most } })}
            />{" "}
            characters
          </>
        )}
        {looksFor.kind === "prompt" && (
          <>
            : at least{" "}
            <NumberValue
              label="Words of the prompt, one after the other"
              value={looksFor.words}
              min={3}
              max={100}
              onChange={(words) => words !== undefined && set({ looksFor: { kind: "prompt", words } })}
            />{" "}
            of its words, one after the other
          </>
        )}
        {looksFor.kind === "pattern" && (
          <>
            :{" "}
            <TextValue
              label="Pattern (a regular expression)"
              value={looksFor.pattern}
              maxLength={1_000}
              read={patternIn}
              onChange={(pattern) => set({ looksFor: { ...looksFor, pattern } })}
            />
            ,{" "}
            <ChoiceValue
              label="Whether case matters"
              value={looksFor.ignoresCase ? "any" : "as"}
              options={[
                { value: "as", label: "in the case that it has" },
                { value: "any", label: "in any case" },
              ]}
              onChange={(which) => set({ looksFor: { ...looksFor, ignoresCase: which === "any" ? true : undefined } })}
            />
          </>
        )}
        {looksFor.kind === "judge" && (
          <>
            :{" "}
            <ModelValue
              label="Model that judges"
              providers={providers}
              value={looksFor.by}
              onChange={(by) => by && set({ looksFor: { ...looksFor, by } })}
            />{" "}
            lets a reply through that meets{" "}
            <TextValue
              label="Rubric"
              value={looksFor.rubric}
              maxLength={1_000}
              read={(text) =>
                text.trim() === "" ? { kind: "wrong", why: "says nothing" } : { kind: "value", value: text.trim() }
              }
              onChange={(rubric) => set({ looksFor: { ...looksFor, rubric } })}
            />
          </>
        )}
        , and{" "}
        <ChoiceValue<GuardAct>
          label="What the guard does"
          value={does}
          options={acts}
          onChange={(act) => set({ does: act })}
        />
        {on === "sent" && does === "mask" && (
          <>
            ;{" "}
            <ChoiceValue
              label="Whether what was masked is put back"
              value={putsBack ? "back" : "stays"}
              options={[
                { value: "back", label: "the reader and tools get it back" },
                { value: "stays", label: "the mark stays in the reply" },
              ]}
              onChange={(which) => set({ putsBack: which === "back" ? true : undefined })}
            />
          </>
        )}
        . It is{" "}
        <ChoiceValue
          label="Whether the guard is on"
          value={isOff ? "off" : "on"}
          options={[
            { value: "on", label: "on" },
            { value: "off", label: "off" },
          ]}
          onChange={(which) => set({ isOff: which === "off" ? true : undefined })}
        />
        .
        {does === "refuse" && (
          <>
            {" "}
            It says{" "}
            <TextValue
              label="What the app says instead"
              value={says ?? usualSaying}
              maxLength={500}
              onChange={(text) =>
                set({ says: text.trim() === "" || text.trim() === usualSaying ? undefined : text.trim() })
              }
            />
          </>
        )}{" "}
        · <Action onClick={onDelete}>delete it</Action>
      </div>
      {looksFor.kind === "personal" && (
        <Checkbox.Group
          className={styles.kinds}
          value={looksFor.kinds}
          options={personalKinds.map((kind) => ({ value: kind, label: personalWords[kind] }))}
          onChange={(kinds) => kinds.length > 0 && set({ looksFor: { kind: "personal", kinds } })}
        />
      )}
      {looksFor.kind === "words" && (
        <div className={styles.lines}>
          <LinesValue
            label="Words and phrases, one a line"
            value={looksFor.words.join("\n")}
            rows={[2, 8]}
            read={wordsIn}
            onChange={(text) => set({ looksFor: { kind: "words", words: linesOf(text) } })}
          />
          <small>One a line: whole words and phrases, in any case and with any accents.</small>
        </div>
      )}
      {looksFor.kind !== "length" && looksFor.kind !== "judge" && looksFor.kind !== "prompt" && (
        <div className={styles.lines}>
          <LinesValue
            label="Let through, one a line"
            value={except.join("\n")}
            placeholder="let through, one a line: desk@saltmarsh.example"
            rows={[1, 4]}
            onChange={(text) => {
              const lines = linesOf(text).slice(0, 50);
              set({ except: lines.length > 0 ? lines.map((line) => line.slice(0, 200)) : undefined });
            }}
          />
        </div>
      )}
      <p className={styles.note}>
        {wordsOfHold(guard)}
        {looksFor.kind === "personal" && ` ${wordsOfMeasure(looksFor.kinds)}`}
      </p>
      {looksFor.kind !== "judge" && <TryGuard key={JSON.stringify([looksFor, except])} app={app} guard={guard} />}
    </div>
  );
}

/** A rule without what does not go together with the rest of it. */
function fitting(guard: Guard): Guard {
  const putsBack = guard.on === "sent" && guard.does === "mask" ? guard.putsBack : undefined;
  const next = { ...guard, putsBack, says: guard.does === "refuse" ? guard.says : undefined };
  return guardSchema.safeParse(next).success ? next : guard;
}

function begunLook(kind: Kind, judge: { provider: string; model: string } | undefined): LooksFor | undefined {
  switch (kind) {
    case "personal":
      return { kind, kinds: [...personalKinds] };
    case "words":
      return { kind, words: ["word"] };
    case "pattern":
      return { kind, pattern: String.raw`\bQD-\d{6}\b` };
    case "length":
      return { kind, most: 4_000 };
    case "prompt":
      return { kind, words: 8 };
    case "judge":
      return judge && { kind, rubric: "stays with what the app is for", by: judge };
  }
}

/** How well personal data is found, as it was measured. */
function wordsOfMeasure(kinds: readonly (typeof personalKinds)[number][]): string {
  const all = kinds.map((kind) => {
    const { found, of, falseAlarms } = measuredPersonal[kind];
    return `${personalWords[kind]} ${found} of ${of}, ${falseAlarms === 0 ? "no" : falseAlarms} false ${falseAlarms === 1 ? "alarm" : "alarms"}`;
  });
  return `Measured on texts of ours, ${harmlessTexts} of them without any: ${all.join("; ")}. It finds forms, not persons: nobody is made anonymous by it.`;
}

function nameIn(text: string, others: readonly string[]): Read<string> {
  const name = text.trim();
  if (name === "") return { kind: "wrong", why: "is empty" };
  return others.includes(name)
    ? { kind: "wrong", why: "is the name of another guard" }
    : { kind: "value", value: name };
}

function patternIn(text: string): Read<string> {
  if (text === "") return { kind: "wrong", why: "is empty" };
  const why = flawOfPattern(text);
  return why ? { kind: "wrong", why } : { kind: "value", value: text };
}

function wordsIn(text: string): Read<string> {
  const words = linesOf(text);
  if (words.length === 0) return { kind: "wrong", why: "There has to be a word." };
  if (words.length > mostWords) return { kind: "wrong", why: `There are more than ${mostWords}.` };
  const long = words.find((word) => word.length > 100);
  return long
    ? { kind: "wrong", why: `“${long.slice(0, 30)}…” has more than 100 characters.` }
    : { kind: "value", value: text };
}

function linesOf(text: string): string[] {
  return text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
}
