import { countsOf, noHolding } from "../../tokens/counts";
import { markOf } from "../mark";
import type { PartKind } from "./part";

/** The system prompt, its variables filled. An empty one is a part that holds nothing. */
export const prompt: PartKind = {
  kind: "prompt",
  stands: "first",
  rank: null,
  reason: { kind: "prompt" },
  gather: ({ prompt }) => ({
    holding: prompt.trim() === "" ? noHolding : { counts: countsOf(prompt), messages: 1 },
    mark: markOf(prompt),
    words: prompt,
  }),
};
