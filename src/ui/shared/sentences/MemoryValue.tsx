import type { MemoryKind, Memory as MemoryOf } from "@/core/context/policies/policies";
import { ChoiceValue } from "../inline/ChoiceValue";
import { NumberValue } from "../inline/NumberValue";

/** What each policy carries, in words, and the word before its number. */
const choices: { value: MemoryKind; label: string; said?: string }[] = [
  { value: "everything", label: "everything" },
  { value: "last-turns", label: "the last turns", said: "the last" },
  { value: "last-messages", label: "the last messages", said: "the last" },
  { value: "fitting", label: "as many turns as fit" },
  {
    value: "summary",
    label: "a summary of what is older, and the newest",
    said: "a summary of what is older, and the newest",
  },
  { value: "nothing", label: "no turns" },
];

/** What is carried of the turns before, and the number that goes with that. @param budget tokens that turns get at first where as many as fit are carried */
export function MemoryValue({
  memory,
  budget,
  onChange,
}: {
  memory: MemoryOf;
  budget: number;
  onChange: (next: MemoryOf) => void;
}) {
  return (
    <>
      <ChoiceValue
        label="What is carried"
        value={memory.kind}
        options={choices}
        onChange={(kind) => onChange(begun(kind as MemoryKind, memory, budget))}
      />
      <Measure memory={memory} onChange={onChange} />
    </>
  );
}

/** The number that a policy goes by, edited in place. */
function Measure({ memory, onChange }: { memory: MemoryOf; onChange: (next: MemoryOf) => void }) {
  switch (memory.kind) {
    case "last-turns":
    case "summary":
      return (
        <>
          {" "}
          <NumberValue
            label={memory.kind === "summary" ? "Turns that are carried in full" : "Turns that are carried"}
            value={memory.turns}
            min={1}
            max={1_000}
            onChange={(turns = 1) => onChange({ ...memory, turns })}
          />{" "}
          {memory.turns === 1 ? "turn" : "turns"}
          {memory.kind === "summary" && " in full"}
        </>
      );
    case "last-messages":
      return (
        <>
          {" "}
          <NumberValue
            label="Messages that are carried"
            value={memory.messages}
            min={1}
            max={2_000}
            onChange={(messages = 1) => onChange({ ...memory, messages })}
          />{" "}
          {memory.messages === 1 ? "message" : "messages"}
        </>
      );
    case "fitting":
      return (
        <>
          {" "}
          <NumberValue
            label="Tokens that the turns may have"
            value={memory.tokens}
            min={1}
            max={100_000_000}
            onChange={(tokens = 1) => onChange({ ...memory, tokens })}
          />{" "}
          tokens
        </>
      );
    default:
      return null;
  }
}

/** A policy with a number to begin with; what all have in common stays. */
function begun(kind: MemoryKind, { as, apart }: MemoryOf, budget: number): MemoryOf {
  const common = { ...(as ? { as } : {}), ...(apart ? { apart } : {}) };
  switch (kind) {
    case "last-turns":
      return { kind, turns: 8, ...common };
    case "last-messages":
      return { kind, messages: 16, ...common };
    case "fitting":
      return { kind, tokens: Math.max(Math.round(budget / 100) * 100, 100), ...common };
    case "summary":
      return { kind, turns: 4, ...common };
    default:
      return { kind, ...common };
  }
}
