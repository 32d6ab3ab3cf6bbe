import { z } from "zod";
import { type Calibration, tokensOf } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import { chosenOf, type PassageFate } from "./choosing";
import { fencedIn, fenceFor } from "./fencing";
import { markOf } from "./marks";
import { filledSources, type Sources } from "./sources";

/** Where a passage stands in its document: characters of its text, and what one would say of the place. */
export const placeSchema = z
  .object({
    from: z.int().min(0),
    to: z.int().min(0),
    /** The headings that it stands under, the highest first. */
    headings: z.array(z.string()),
    page: z.int().min(1).optional(),
    row: z.int().min(1).optional(),
  })
  .meta({ id: "PassagePlace" });
export type PassagePlace = z.infer<typeof placeSchema>;

/** A passage of a document, as it is told of. */
const passage = {
  /** Where it is all of a document, or its digest, which goes along whatever is asked. */
  whole: z.enum(["text", "digest"]).optional(),
  /** Of the passage. */
  passage: z.string(),
  /** Of its document, and of the bytes that this was read from. */
  source: z.string(),
  version: z.string(),
  title: z.string(),
  text: z.string(),
  where: placeSchema,
};

/** A passage that a question found. */
export const foundPassageSchema = z.object({
  ...passage,
  /** Names the document in marks. */
  short: z.string(),
  /** How well it fits the question: 1 for the best that was found, down to 0. */
  likeness: z.number().min(0).max(1),
});
export type FoundPassage = z.infer<typeof foundPassageSchema>;

/** A passage that a reply cites, or may: by its mark, without its brackets. */
export const citedSchema = z.object({ mark: z.string(), ...passage }).meta({ id: "Citation" });
export type Cited = z.infer<typeof citedSchema>;

/** Likeness below which what was found has too little to do with a question to be carried. */
export const usualBar = 0.05;

/** A passage that was found, with what becomes of it before it is known what room there is. */
export interface WeighedPassage {
  found: FoundPassage;
  fate: PassageFate;
  /** As it is carried. */
  words: string;
  /** What it is cited by where it is carried, without brackets; else "". */
  mark: string;
}

/**
 * Which of the passages that were found are to be carried, each with its mark: the best of them, within the tokens
 * that they may have.
 * @param found the best first
 */
export function weighedPassages(
  found: readonly FoundPassage[],
  sources: Sources,
  calibration: Calibration,
): WeighedPassage[] {
  const { best, within } = filledSources(sources);
  const fence = fenceFor(found.map(({ text, ...each }) => ({ text, where: whereOf(each) })));
  const wordsOf = (each: FoundPassage, number: number) =>
    fencedIn(fence, { mark: markOf(each.short, number), where: whereOf(each), text: each.text });
  const sized = found.map((each, at) => ({
    id: each.passage,
    isWhole: each.whole !== undefined,
    text: each.text,
    likeness: each.likeness,
    tokens: Math.round(tokensOf({ counts: countsOf(wordsOf(each, at + 1)), messages: 0 }, calibration)),
  }));
  let number = 0;
  return chosenOf(sized, { best, within, bar: usualBar }).map(({ fate }, at): WeighedPassage => {
    const each = found[at] as FoundPassage;
    if (!fate.carried) return { found: each, fate, words: wordsOf(each, at + 1), mark: "" };
    number += 1;
    return { found: each, fate, words: wordsOf(each, number), mark: markOf(each.short, number).slice(1, -1) };
  });
}

/** Where a passage comes from, as a model is told: "Skipper's handbook, page 47". */
export function whereOf({
  title,
  whole,
  where: { headings, page, row },
}: Pick<FoundPassage, "title" | "where" | "whole">): string {
  return [
    whole === "digest" ? `digest of ${title}` : title,
    ...headings.slice(-1),
    page && `page ${page}`,
    row && `row ${row}`,
  ]
    .filter(Boolean)
    .join(", ");
}
