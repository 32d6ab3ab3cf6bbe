import type { Check } from "@/core/revision/checks";
import { count } from "../../shared/format";
import prompt from "./PromptRow.module.css";

/** What is wrong with a prompt and its limits, each with what to do. */
export function PromptChecks({ checks }: { checks: readonly Check[] }) {
  if (checks.length === 0) return null;
  return (
    <ul className={prompt.checks} aria-label="To be seen to in the prompt">
      {checks.map((check, at) => (
        <li key={at}>{wordsOf(check)}</li>
      ))}
    </ul>
  );
}

function wordsOf(check: Check): string {
  switch (check.kind) {
    case "no-value":
      return `Nothing gives {{${check.name}}} a value. Give it one, or a sample, in the Prompt station.`;
    case "no-variable":
      return `${check.text} is no variable, and is sent as it stands. A name begins with a small letter and has letters, digits and _.`;
    case "empty-block":
      return `The block ${check.block} is empty. Write something in it, or take its line away.`;
    case "no-block":
      return `The block ${check.block} is switched off, and the prompt has none of that name.`;
    case "no-room":
      return `A reply may have ${count(check.maxOutput)} tokens, and the window has ${count(check.window)}: nothing could be sent. Lower the output limit in the Model station.`;
    case "too-long":
      return `The prompt alone is about ${count(check.by)} tokens too long for the window beside the reply. Shorten it, lower the output limit, or choose a model with a larger window.`;
    case "budget-over-window":
      return `What is remembered may have ${count(check.budget)} tokens, and the window leaves ${count(check.room)} beside the reply: the window decides. Lower one of them.`;
    case "clock-early":
      return `{{time}} changes by the minute and stands before about ${count(check.tokens)} tokens of the prompt: a provider's cache holds nothing from there on. Put it at the end.`;
  }
}
