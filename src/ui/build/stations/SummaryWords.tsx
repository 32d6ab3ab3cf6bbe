import { Input } from "antd";
import { useState } from "react";
import type { Provider } from "@/contract/providers";
import type { Memory } from "@/core/context/policies/policies";
import { usualSummaryPrompt } from "@/core/context/sum-up";
import { ModelWord } from "../../shared/ModelWord";
import styles from "./stations.module.css";

type SummaryMemory = Extract<Memory, { kind: "summary" }>;

/** Who sums up, and on what prompt, which is unfolded to be written. */
export function SummaryWords({
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
      <ModelWord
        label="Model that sums up"
        providers={providers}
        value={memory.by}
        none="the model that answers"
        onChange={(by) => onChange({ ...memory, by })}
      />
      , on{" "}
      <button type="button" className={styles.unfold} aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {memory.prompt === undefined ? "the usual prompt" : "a prompt of its own"}
      </button>
      .
      {isOpen && (
        <div className={styles.prompt}>
          <Input.TextArea
            aria-label="Prompt for summaries"
            autoSize={{ minRows: 2, maxRows: 10 }}
            maxLength={10_000}
            value={prompt}
            onChange={({ target: { value } }) =>
              onChange({ ...memory, prompt: value === usualSummaryPrompt || value.trim() === "" ? undefined : value })
            }
          />
          {memory.prompt !== undefined && (
            <button type="button" className="link" onClick={() => onChange({ ...memory, prompt: undefined })}>
              take the usual one
            </button>
          )}
        </div>
      )}
    </>
  );
}
