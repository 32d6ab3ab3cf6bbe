import { toolsIn } from "../../conversation/pieces";
import { countsOfPieces } from "../../tokens/counts";
import type { PartKind } from "./part";

/** What the reply that is under way said so far, with the tools that it asked and their answers: sent with each further round. */
export const exchange: PartKind = {
  kind: "exchange",
  stands: "after",
  rank: null,
  reason: { kind: "under-way" },
  gather({ exchange: { pieces, carry } }) {
    if (pieces.length === 0) return null;
    return {
      holding: { counts: countsOfPieces(pieces), messages: 1 },
      // it is another one with each round
      mark: String(pieces.length),
      count: toolsIn({ pieces }).length,
      messages: [{ role: "app", pieces: [...pieces], carry }],
    };
  },
};
