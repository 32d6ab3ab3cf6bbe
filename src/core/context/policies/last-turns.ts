import { z } from "zod";
import { common, type Policy, within } from "./policy";

const schema = z.strictObject({
  kind: z.literal("last-turns"),
  turns: z.int().min(1).max(1_000),
  within,
  ...common,
});

/** Carries so many of the newest turns. */
export const lastTurns: Policy<typeof schema> = { schema, most: ({ turns, within }) => ({ turns, tokens: within }) };
