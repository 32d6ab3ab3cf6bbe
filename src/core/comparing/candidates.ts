import { changesBetween, type Words } from "../revision/changes";
import type { Content } from "../revision/content";

/** Something that is not the same in all candidates: its name, and how it is in each. */
export interface CandidateRow {
  what: string;
  values: string[];
}

/** What differs between candidates beside the words of their prompts. */
export function candidateRows(contents: readonly Content[], words: Words): CandidateRow[] {
  const [first, ...others] = contents;
  if (!first) return [];
  const changes = others.map(
    (content) => new Map(changesBetween(first, content, words).map((each) => [each.what, each])),
  );
  const names = [...new Set(changes.flatMap((each) => [...each.keys()]))];
  return names.map((what) => {
    const was = changes.flatMap((each) => each.get(what)?.was ?? [])[0] ?? "";
    return { what, values: [was, ...changes.map((each) => each.get(what)?.is ?? was)] };
  });
}

/** In what a content was changed from another, as far as that is said in a sentence. */
export interface LaneChanges {
  model?: { provider: string; model: string };
  temperature?: number;
  maxOutput?: number;
  prompt?: true;
  memory?: Content["memory"];
  /** Whether anything else is other. */
  more?: true;
}

/** In what a content was changed from its base. */
export function laneChanges(base: Content, content: Content): LaneChanges {
  const changed = new Set(
    changesBetween(base, content, { provider: (slug) => slug, memory: (memory) => JSON.stringify(memory) }).map(
      ({ what }) => what,
    ),
  );
  const { provider, model, settings, memory } = content;
  const said = new Set(["provider", "model", "temperature", "output limit", "memory"]);
  return {
    model: changed.has("provider") || changed.has("model") ? { provider, model } : undefined,
    temperature: changed.has("temperature") ? settings.temperature : undefined,
    maxOutput: changed.has("output limit") ? settings.maxOutput : undefined,
    prompt: base.prompt === content.prompt ? undefined : true,
    memory: changed.has("memory") ? memory : undefined,
    more: [...changed].some((what) => !said.has(what)) ? true : undefined,
  };
}
