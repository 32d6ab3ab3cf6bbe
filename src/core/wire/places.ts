import { z } from "zod";
import type { Weights } from "../tokens/calibration";
import type { Counts, Holding } from "../tokens/counts";
import { pictureTokensSchema } from "../tokens/picture-tokens";

/** What becomes of pieces in the requests of a profile, for one model. */
export const piecePlacesSchema = z.object({
  /** Pictures are sent, left out, or a call with one is refused: the API has no place for it, or the model sees none. */
  picture: z.enum(["taken", "left-out", "refused", "unseen"]),
  /** Whether a picture can be sent as the address where it stands. */
  addresses: z.boolean(),
  /** Tokens that the model counts a picture for, where that is known. */
  pictureTokens: pictureTokensSchema.optional(),
  /** Calls of tools and their answers are sent as such, told in words, or a call with some is refused. */
  tool: z.enum(["taken", "told", "refused"]),
  /** Whether tools can be offered. */
  offersTools: z.boolean(),
  /** Whether a call can say that one is to be called, or none. */
  choosesTools: z.boolean(),
  /** Whether it takes the schema of a reply; otherwise a model is told it in words. */
  takesSchema: z.boolean(),
});
export type PiecePlaces = z.infer<typeof piecePlacesSchema>;

/** The places of an API that takes all pieces. */
export const everyPlace: PiecePlaces = {
  picture: "taken",
  addresses: true,
  tool: "taken",
  offersTools: true,
  choosesTools: true,
  takesSchema: true,
};

/** Tokens of the words around a call that is told in words. */
const tokensOfTelling = 4;

/** What is known of a model's weights beside what was learned: of that which its API is not sent, and of pictures. */
export function knownWeights({ picture, tool, pictureTokens: of }: PiecePlaces): Partial<Weights> {
  return {
    ...(of ? { pictures: of.each, tiles: of.tile, kilopixels: of.kilopixel } : {}),
    ...(picture === "left-out" ? { pictures: 0, tiles: 0, kilopixels: 0 } : {}),
    ...(tool === "told" ? { calls: tokensOfTelling } : {}),
  };
}

/** What of a holding a profile sends, which an estimate can be learned from. */
export function sentHolding({ counts, messages }: Holding, { picture, tool }: PiecePlaces): Holding {
  const without: Partial<Counts> = {
    ...(picture === "left-out" ? { pictures: 0, tiles: 0, kilopixels: 0 } : {}),
    ...(tool === "told" ? { calls: 0 } : {}),
  };
  return { counts: { ...counts, ...without }, messages };
}
