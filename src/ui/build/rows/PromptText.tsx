import { Fragment } from "react";
import { stretchesOf } from "@/core/revision/blocks";
import type { Content } from "@/core/revision/content";
import { filledParts } from "@/core/revision/variables";
import { useNow } from "../../shared/use-now";
import prompt from "./PromptRow.module.css";

/** A prompt as it will be sent: its variables filled and marked, the names of its blocks beside them. */
export function PromptText({ content, most }: { content: Content; most: number }) {
  const { off = [], variables, samples, timeZone } = content;
  const now = useNow();
  let left = most;
  return stretchesOf(content.prompt).map(({ block, text, line }) => {
    if (left <= 0) return null;
    const lines = text.split("\n").slice(0, left);
    left -= lines.length;
    return (
      <Fragment key={line}>
        <span className={prompt.stretch} data-off={block !== null && off.includes(block)}>
          {block !== null && <em className={prompt.block}>{block}</em>}
          {filledParts(lines.join("\n"), { ...variables, ...samples }, now, timeZone).map((part, at) =>
            part.kind === "text" ? (
              <Fragment key={at}>{part.text}</Fragment>
            ) : (
              <mark key={at} className={prompt.variable} data-missing={part.value === undefined}>
                {part.value ?? `{{${part.name}}}`}
              </mark>
            ),
          )}
        </span>
      </Fragment>
    );
  });
}
