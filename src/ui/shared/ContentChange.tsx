import { changesBetween } from "@/core/revision/changes";
import type { Content } from "@/core/revision/content";
import styles from "./ContentChange.module.css";
import { useDifferences } from "./differences/use-compared";
import { wordsOfMemory } from "./wording/memory";

/** What differs between two contents: the prompt word by word, all else in words. */
export function ContentChange({
  before,
  after,
  nameOf,
}: {
  before: Content;
  after: Content;
  /** The name of a provider by its slug. */
  nameOf: (provider: string) => string;
}) {
  const differences = useDifferences(before.prompt, after.prompt);
  const settings = changesBetween(before, after, { provider: nameOf, memory: wordsOfMemory });
  const isSamePrompt = before.prompt === after.prompt;
  return (
    <div className={styles.change}>
      {!isSamePrompt && (
        <div className={styles.words}>
          {differences?.kind === "throughout" && "The prompt is changed throughout."}
          {differences?.kind === "parts" &&
            differences.parts.map((part, at) => {
              const Tag = tags[part.in];
              return <Tag key={at}>{part.in === "both" ? shortened(part.text) : part.text}</Tag>;
            })}
        </div>
      )}
      {settings.map(({ what, was, is }) => (
        <div key={what}>
          {what}: <del>{was}</del> → <ins>{is}</ins>
        </div>
      ))}
      {isSamePrompt && settings.length === 0 && "Nothing is different."}
    </div>
  );
}

const tags = { both: "span", before: "del", after: "ins" } as const;

/** Characters of what stayed that are shown to either side of what changed. */
const shown = 120;

/** The beginning and the end of a text that stayed the same. */
function shortened(text: string): string {
  return text.length > shown * 2.5 ? `${text.slice(0, shown)} … ${text.slice(-shown)}` : text;
}
