import { type Content, ordered } from "./content";

/**
 * The parts of a draft, as they are called: two who edit different parts at once both keep their edits. A part is a
 * member of the content; a model and the provider that it is on are one.
 */
export const parts: readonly [name: string, members: (keyof Content)[]][] = [
  ["system prompt", ["prompt"]],
  ["blocks", ["off"]],
  ["variables", ["variables"]],
  ["samples", ["samples"]],
  ["time zone", ["timeZone"]],
  ["opening", ["opening"]],
  ["model", ["provider", "model"]],
  ["models to go on to", ["fallbacks"]],
  ["settings", ["settings"]],
  ["memory", ["memory"]],
  ["documents", ["sources"]],
  ["tools", ["tools"]],
  ["schema of the reply", ["schema"]],
  ["rounds of calls", ["rounds"]],
  ["calls at once", ["together"]],
  ["guards", ["guards"]],
];

/** What comes of two edits of one content. */
export type Merged =
  | { kind: "merged"; content: Content }
  /** Both changed these parts, each in its own way. */
  | { kind: "conflict"; parts: string[] };

/**
 * Puts an edit onto a content that was edited meanwhile, part by part.
 * @param base what both edits began with; undefined where nobody has it any more, so that whatever differs is a conflict
 * @param stored what stands there by now
 * @param edited what is to be stored
 * @param winner whose part is taken where both changed it; a conflict where nobody said
 */
export function merge(
  base: Content | undefined,
  stored: Content,
  edited: Content,
  winner?: "stored" | "edited",
): Merged {
  const content: Content = { ...stored };
  const conflicts: string[] = [];
  for (const [name, members] of parts) {
    const of = (whole: Content | undefined) => whole && ordered(members.map((member) => whole[member] ?? null));
    if (of(edited) === of(base) || of(edited) === of(stored)) continue;
    const isConflict = of(stored) !== of(base);
    if (isConflict && winner === undefined) conflicts.push(name);
    else if (!isConflict || winner === "edited")
      for (const member of members) Object.assign(content, { [member]: edited[member] });
  }
  return conflicts.length > 0 ? { kind: "conflict", parts: conflicts } : { kind: "merged", content };
}
