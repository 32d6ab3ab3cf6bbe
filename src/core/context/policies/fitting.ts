import { z } from "zod";
import { mostTokens } from "../../tokens/count";
import { common, type Policy } from "./policy";

const schema = z.strictObject({ kind: z.literal("fitting"), tokens: z.int().min(1).max(mostTokens), ...common });

/** Carries as many of the newest turns as fit so many tokens. */
export const fitting: Policy<typeof schema> = { schema, most: ({ tokens }) => ({ tokens }) };
