import type { Forecast } from "@/core/context/forecast";
import { judgedRows } from "@/core/context/judged";
import type { Memory as MemoryOf } from "@/core/context/policies/policies";
import { Action } from "../../shared/Action";
import { duration, many } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { MemoryValue } from "../../shared/sentences/MemoryValue";
import sentences from "../../shared/sentences/sentences.module.css";
import { shortly } from "../../shared/wording/memory";
import { SummarySentence } from "./SummarySentence";
import type { Station, StationScene } from "./station";

/** What is carried of the turns before. */
export const memory: Station = {
  name: "Memory",
  reading: ({ draft, ahead }) => `${shortly(draft.content.memory)} · ${many(ahead.remembered, "token")}`,
  mark: ({ facts: { steps } }) => ({ state: "done", time: steps && duration(steps.memory) }),
  Sentence: MemorySentence,
};

function MemorySentence({ draft, ahead, providers, hasFigures, onFigures }: StationScene) {
  const { memory } = draft.content;
  const change = (next: MemoryOf) => draft.edit({ memory: next });
  const pins = ahead.track.atHand.pinned?.length ?? 0;
  return (
    <>
      <div className={sentences.sentence}>
        Carries{" "}
        <MemoryValue memory={memory} budget={Math.max(ahead.remembered, ahead.room.window / 4)} onChange={change} />
        {pins > 0 && memory.kind !== "everything" && ` and ${many(pins, "pinned turn")}`}
        {"within" in memory || isLimited(memory) ? (
          <>
            , within{" "}
            <NumberValue
              label="Tokens that all that is remembered may have"
              value={"within" in memory ? memory.within : undefined}
              min={1}
              max={100_000_000}
              none={{ said: "what there is room for" }}
              onChange={(within) => change({ ...memory, within } as MemoryOf)}
            />
            {"within" in memory && memory.within !== undefined && " tokens"}
          </>
        ) : null}
        ,{" "}
        <ChoiceValue
          label="Whose memory"
          value={memory.apart ? "apart" : "common"}
          options={[
            { value: "common", label: "the same for all models" },
            { value: "apart", label: "each model only what it answered" },
          ]}
          onChange={(whose) => change({ ...memory, apart: whose === "apart" ? true : undefined })}
        />
        , as{" "}
        <ChoiceValue
          label="How turns are carried"
          value={memory.as ?? "messages"}
          options={[
            { value: "messages", label: "messages" },
            { value: "text", label: "text in the prompt" },
          ]}
          onChange={(as) => change({ ...memory, as: as === "text" ? "text" : undefined })}
        />
        .{memory.kind === "summary" && <SummarySentence {...{ memory, providers }} onChange={change} />}
      </div>
      <p className={sentences.under}>
        <span>
          {many(ahead.turns.turns, "turn")}, about <b>{many(ahead.remembered, "token")}</b> remembered.
        </span>
        <span>{leftOut(ahead)}</span>
        <Action aria-pressed={hasFigures} onClick={onFigures}>
          {hasFigures ? "without figures" : "figures of each turn"}
        </Action>
        {memory.apart && draft.content.fallbacks && draft.content.fallbacks.length > 0 && (
          <span>A model that is gone on to carries what it answered itself.</span>
        )}
      </p>
    </>
  );
}

/** Whether all that is remembered can be held to a number of tokens beside what the policy says. */
function isLimited({ kind }: MemoryOf): boolean {
  return kind === "last-turns" || kind === "last-messages" || kind === "summary";
}

/** What is left out now. */
function leftOut(ahead: Forecast): string {
  const { above } = ahead;
  const rows = judgedRows(ahead);
  const out = rows.filter(({ carried, row }) => !carried && row.role === "visitor");
  const aboveOut = above.fate === "left out" ? above : { tokens: 0, messages: 0 };
  const turns = out.length + aboveOut.messages / 2;
  if (turns === 0) return "Nothing is left out now.";
  const tokens = rows.reduce((sum, row) => sum + (row.carried ? 0 : row.tokens), 0) + aboveOut.tokens;
  const how = ahead.summary?.carried ? "Not carried in full" : "Left out now";
  return `${how}: ${many(turns, "turn")}, ${many(tokens, "token")}.`;
}
