import { laneChanges } from "@/core/comparing/candidates";
import type { LaneBase } from "@/core/comparing/lane";
import type { Content } from "@/core/revision/content";
import { count } from "../format";
import { shortly } from "../wording/memory";

/** A candidate as it is spoken of: what it was chosen as, its content, and what its base was where that is another. */
export interface Spoken {
  base: LaneBase;
  content: Content;
  changedFrom: Content | null;
}

/** What a base is called in a sentence, and over a column. */
function baseWords(base: LaneBase): { long: string; short: string } {
  if (base === "live") return { long: "the live revision", short: "live" };
  if (base === "draft") return { long: "the draft", short: "draft" };
  return { long: `revision ${base}`, short: `revision ${base}` };
}

/** What a candidate is called in a sentence: "the draft", "tide-wide at temperature 0.2". */
export function laneSaid({ base, content, changedFrom }: Spoken): string {
  const { long } = baseWords(base);
  if (!changedFrom) return long;
  const { model, temperature, maxOutput, prompt, memory, more } = laneChanges(changedFrom, content);
  const tail = [
    temperature !== undefined && `at temperature ${temperature}`,
    maxOutput !== undefined && `in at most ${count(maxOutput)} tokens`,
    prompt && "with another prompt",
    memory && `carrying ${shortly(memory)}`,
    more && "with other settings",
  ].filter(Boolean);
  const head = model ? (base === "live" ? model.model : `${model.model} for ${long}`) : long;
  return [head, ...tail].join(" ");
}

/** What candidates are called over their columns: short, and each another name. */
export function laneNames(lanes: readonly Spoken[], nameOf: (provider: string) => string): string[] {
  const names = lanes.map(({ base, content, changedFrom }) => {
    const changes = changedFrom && laneChanges(changedFrom, content);
    return changes?.model ? changes.model.model : baseWords(base).short;
  });
  const isTaken = (name: string, at: number, all: readonly string[]) =>
    all.some((other, place) => other === name && place !== at);
  const finer = names.map((name, at) => {
    const lane = lanes[at];
    if (!lane || !isTaken(name, at, names)) return name;
    const { temperature, prompt, memory, maxOutput } = laneChanges(lane.changedFrom ?? lane.content, lane.content);
    const said = [
      temperature !== undefined && String(temperature),
      prompt && "other prompt",
      memory && shortly(memory),
      maxOutput !== undefined && `${count(maxOutput)} tokens`,
      lane.changedFrom && lane.changedFrom.provider !== lane.content.provider && nameOf(lane.content.provider),
    ].filter(Boolean);
    return said.length > 0 ? `${name}, ${said.join(", ")}` : name;
  });
  return finer.map((name, at) =>
    isTaken(name, at, finer) ? `${name} (${finer.slice(0, at + 1).filter((other) => other === name).length})` : name,
  );
}

/** What stands beside a candidate's name: who it is, in full. */
export function laneAbout(
  { base, content, changedFrom }: Spoken,
  revision: number | undefined,
  nameOf: (provider: string) => string,
): string {
  const of = changedFrom ? `changed from ${base === "draft" ? "the draft" : `revision ${revision ?? base}`}` : "";
  const number = typeof base === "string" && revision !== undefined && !changedFrom ? `revision ${revision}` : "";
  const { temperature } = content.settings;
  return [
    number || of,
    `${content.model} on ${nameOf(content.provider)}`,
    temperature !== undefined && `temperature ${temperature}`,
  ]
    .filter(Boolean)
    .join(" · ");
}

/** "a, b and c". */
export function listed(words: readonly string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}

const numbers = ["no", "one", "two", "three", "four", "five", "six"];

/** A small number as a word: "all four". */
export function inWords(value: number): string {
  return numbers[value] ?? String(value);
}
