import { z } from "zod";
import { common, type Policy, within } from "./policy";

const schema = z.strictObject({ kind: z.literal("nothing"), within, ...common });

/** Carries no turn but those that are pinned. */
export const nothing: Policy<typeof schema> = { schema, most: ({ within }) => ({ turns: 0, tokens: within }) };
