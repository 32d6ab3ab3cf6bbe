import { z } from "zod";
import { common, type Policy, within } from "./policy";

const schema = z.strictObject({
  kind: z.literal("last-messages"),
  messages: z.int().min(1).max(2_000),
  within,
  ...common,
});

/** Carries the newest turns that have so many messages together at most; one of which a part would be left out is left out. */
export const lastMessages: Policy<typeof schema> = {
  schema,
  most: ({ messages, within }) => ({ messages, tokens: within }),
};
