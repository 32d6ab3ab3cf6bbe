import { useState } from "react";
import type { Provider } from "@/contract/providers";
import type { Memory } from "@/core/context/policies/policies";
import { usualSummaryPrompt } from "@/core/context/sum-up";
import { Action } from "../../shared/Action";
import { LinesValue } from "../../shared/inline/LinesValue";
import { ModelValue } from "../../shared/inline/ModelValue";
import { Unfolds } from "../../shared/inline/Unfolds";
import styles from "./stations.module.css";

type SummaryMemory = Extract<Memory, { kind: "summary" }>;

/** Who sums up, and on what prompt, which is unfolded to be written. */
export function SummarySentence({
  memory,
  providers,
  onChange,
}: {
  memory: SummaryMemory;
  providers: Provider[];
  onChange: (next: SummaryMemory) => void;
}) {
  const [isOpen, setOpen] = useState(false);
  const prompt = memory.prompt ?? usualSummaryPrompt;
  return (
    <>
      {" "}
      Summed up by{" "}
      <ModelValue
        label="Model that sums up"
        providers={providers}
        value={memory.by}
        none="the model that answers"
        onChange={(by) => onChange({ ...memory, by })}
      />
      , on{" "}
      <Unfolds isOpen={isOpen} onClick={() => setOpen(!isOpen)}>
        {memory.prompt === undefined ? "the usual prompt" : "a prompt of its own"}
      </Unfolds>
      .
      {isOpen && (
        <div className={styles.prompt}>
          <LinesValue
            label="Prompt for summaries"
            rows={[2, 10]}
            maxLength={10_000}
            value={prompt}
            onChange={(text) =>
              onChange({ ...memory, prompt: text === usualSummaryPrompt || text.trim() === "" ? undefined : text })
            }
          />
          {memory.prompt !== undefined && (
            <Action onClick={() => onChange({ ...memory, prompt: undefined })}>take the usual one</Action>
          )}
        </div>
      )}
    </>
  );
}
