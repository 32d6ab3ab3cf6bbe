import type { Piece } from "../conversation/pieces";
import { rawTokens } from "./calibration";
import { countsOfPieces } from "./counts";

/**
 * The tokens of a message by its parts, in the proportion of their estimates.
 * @param tokens of the whole message: 0 or more, in whole tokens
 * @returns whole tokens, as many numbers as there are parts, which come to the whole together
 */
export function sharesOf(tokens: number, parts: readonly (readonly Piece[])[]): number[] {
  const weights = parts.map((pieces) => rawTokens(countsOfPieces(pieces)));
  const sum = weights.reduce((all, weight) => all + weight, 0);
  let upTo = 0;
  let given = 0;
  return weights.map((weight) => {
    upTo += weight;
    const share = Math.round((tokens * upTo) / Math.max(sum, 1)) - given;
    given += share;
    return share;
  });
}
