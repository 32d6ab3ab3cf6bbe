import { joined, piecesOf, toolsIn } from "../../conversation/pieces";
import { countsOfPieces, noHolding, together } from "../../tokens/counts";
import type { WireMessage } from "../../wire/message";
import type { PartKind } from "./part";

/** What the reply that is under way said so far, with the tools that it asked and their answers: sent with each further round. */
export const exchange: PartKind = {
  kind: "exchange",
  stands: "after",
  rank: null,
  reason: { kind: "under-way" },
  gather({ exchange: { pieces, carry, unfit } }) {
    const said = unfit ? joined(pieces, piecesOf(unfit.text)) : pieces;
    if (said.length === 0) return null;
    const asked: WireMessage[] = unfit ? [{ role: "visitor", pieces: piecesOf(unfit.words) }] : [];
    const messages: WireMessage[] = [{ role: "app", pieces: [...said], carry }, ...asked];
    return {
      holding: messages
        .map((each) => ({ counts: countsOfPieces(each.pieces), messages: 1 }))
        .reduce(together, noHolding),
      // it is another one with each round
      mark: String(said.length + asked.length),
      count: toolsIn({ pieces }).length,
      messages,
    };
  },
};
