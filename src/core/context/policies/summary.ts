import { z } from "zod";
import { common, type Policy, within } from "./policy";

const schema = z.strictObject({
  kind: z.literal("summary"),
  /** The newest turns that are carried in full. */
  turns: z.int().min(1).max(1_000),
  /** The model that summarises; the app's own where nothing is said. */
  by: z.strictObject({ provider: z.string(), model: z.string() }).optional(),
  /** What it is told to do; our own words where nothing is said. */
  prompt: z.string().max(10_000).optional(),
  within,
  ...common,
});

/** Carries a summary of what is older, and so many of the newest turns in full. */
export const summary: Policy<typeof schema> = {
  schema,
  most: ({ within }) => ({ tokens: within }),
  inFull: ({ turns }) => turns,
};
