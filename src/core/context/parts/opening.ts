import { piecesOf } from "../../conversation/pieces";
import { countsOf, noHolding, together } from "../../tokens/counts";
import type { WireMessage } from "../../wire/message";
import { markOf } from "../mark";
import { type PartKind, ranks } from "./part";

/** The fixed turns before every conversation. */
export const opening: PartKind = {
  kind: "opening",
  stands: "before",
  rank: ranks.opening,
  reason: { kind: "opening" },
  gather({ content: { opening = [] } }) {
    if (opening.length === 0) return null;
    const messages = opening.flatMap(({ visitor, app }): WireMessage[] => [
      { role: "visitor", pieces: piecesOf(visitor) },
      { role: "app", pieces: piecesOf(app) },
    ]);
    const texts = opening.flatMap(({ visitor, app }) => [visitor, app]);
    return {
      holding: texts.map((text) => ({ counts: countsOf(text), messages: 1 })).reduce(together, noHolding),
      mark: markOf(JSON.stringify(opening)),
      count: messages.length,
      messages,
    };
  },
};
