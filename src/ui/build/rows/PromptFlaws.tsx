import type { Flaw } from "@/core/revision/flaws";
import { count } from "../../shared/format";
import prompt from "./PromptRow.module.css";

/** What is wrong with a prompt and its limits, each with what to do. */
export function PromptFlaws({ flaws }: { flaws: readonly Flaw[] }) {
  if (flaws.length === 0) return null;
  return (
    <ul className={prompt.flaws} aria-label="Problems of the prompt">
      {flaws.map((flaw, at) => (
        <li key={at}>{wordsOf(flaw)}</li>
      ))}
    </ul>
  );
}

function wordsOf(flaw: Flaw): string {
  switch (flaw.kind) {
    case "no-value":
      return `Nothing gives {{${flaw.name}}} a value. Give it one, or a sample, in the Prompt station.`;
    case "no-variable":
      return `${flaw.text} is no variable, and is sent as it stands. A name begins with a small letter and has letters, digits and _.`;
    case "empty-block":
      return `The block ${flaw.block} is empty. Write something in it, or take its line away.`;
    case "no-block":
      return `The block ${flaw.block} is switched off, and the prompt has none of that name.`;
    case "no-room":
      return `A reply may have ${count(flaw.maxOutput)} tokens, and the window has ${count(flaw.window)}: nothing could be sent. Lower the output limit in the Model station.`;
    case "too-long":
      return `The prompt alone is about ${count(flaw.by)} tokens too long for the window beside the reply. Shorten it, lower the output limit, or choose a model with a larger window.`;
    case "budget-over-window":
      return `What is remembered may have ${count(flaw.budget)} tokens, and the window leaves ${count(flaw.room)} beside the reply: the window decides. Lower one of them.`;
    case "clock-early":
      return `{{time}} changes by the minute and stands before about ${count(flaw.tokens)} tokens of the prompt: a provider's cache holds nothing from there on. Put it at the end.`;
  }
}
