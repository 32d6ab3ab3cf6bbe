import type { BenchFacts } from "@/contract/conversations";
import type { Apart } from "@/core/revision/changes";
import type { callerSettings } from "@/core/serving/access";
import { settingWords } from "./settings";

/** Who made a reply, and by which revision, changed in what; or that a person did, or a file brought it along. */
export function madeBy({ revision, model, hand, imported, apart }: BenchFacts): string {
  if (imported) return hand === undefined ? `imported · ${model}` : "imported";
  return hand ? `${hand} by hand` : [`revision ${revision}`, ...apartWords(apart), model].join(" · ");
}

/** Each thing in which a reply was made apart from its revision. */
function apartWords(apart: Apart | undefined): string[] {
  const settings = Object.entries(apart?.settings ?? {}).map(
    ([name, value]) => `${settingWords[name as (typeof callerSettings)[number]]} ${[value].flat().join(", ")}`,
  );
  return [...settings, ...(apart?.prompt ? ["with a caller's system message"] : [])];
}
