import { z } from "zod";
import type { Weights } from "../tokens/calibration";
import type { Counts, Holding } from "../tokens/counts";

/** What becomes of pieces in the requests of a profile, for one model. */
export const piecePlacesSchema = z.object({
  /** Pictures are sent, left out, or a call with one is refused. */
  picture: z.enum(["taken", "left-out", "refused"]),
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
  tool: "taken",
  offersTools: true,
  choosesTools: true,
  takesSchema: true,
};

/** Tokens of the words around a call that is told in words. */
const tokensOfTelling = 4;

/** Weights by which that counts which a profile sends. */
export function weightsAt(weights: Weights, { picture, tool }: PiecePlaces): Weights {
  if (picture === "taken" && tool === "taken") return weights;
  return {
    ...weights,
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
