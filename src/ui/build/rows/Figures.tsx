import { memo } from "react";
import { extentOf } from "@/core/conversation/extent";
import type { Usage } from "@/core/reply/events";
import { cost, count, many } from "../../shared/format";
import styles from "./Figures.module.css";

/** What a turn took, in figures: its call, and the text that came of it. */
export const Figures = memo(function Figures({
  sent,
  usage,
  text,
}: {
  /** Messages that were sent. */
  sent: number | undefined;
  usage: Usage | undefined;
  text: string;
}) {
  const { characters, words, paragraphs } = extentOf(text);
  const rows: [string, string][] = [
    ...(sent === undefined ? [] : [["messages sent", count(sent)] as [string, string]]),
    ...(usage
      ? ([
          ["tokens in", count(usage.input)],
          ["of these cached", usage.cachedInput === undefined ? "not told" : count(usage.cachedInput)],
          ["out", count(usage.output)],
          ["together", count(usage.input + usage.output)],
          ["price", cost(usage)],
        ] as [string, string][])
      : []),
    ["characters", count(characters)],
    ["words", count(words)],
    ["paragraphs", count(paragraphs)],
  ];
  return (
    <table className={styles.figures} aria-label={`Figures, ${many(words, "word")}`}>
      <tbody>
        {rows.map(([name, value]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
});
