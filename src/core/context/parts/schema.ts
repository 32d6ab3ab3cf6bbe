import { countsOf } from "../../tokens/counts";
import { askedInWords } from "../../typed/schema";
import { markOf } from "../mark";
import type { PartKind } from "./part";

/** The schema that the reply has to fit: by a place of its own in the request, or in words of the prompt. */
export const schema: PartKind = {
  kind: "schema",
  stands: "first",
  rank: null,
  reason: { kind: "typed" },
  gather({ content: { schema }, takesSchema }) {
    if (!schema) return null;
    const told = takesSchema ? JSON.stringify(schema) : askedInWords(schema);
    const counted = { holding: { counts: countsOf(told), messages: 0 }, mark: markOf(told) };
    return takesSchema ? counted : { ...counted, words: told };
  },
};
