import { z } from "zod";
import { common, type Policy } from "./policy";

const schema = z.strictObject({ kind: z.literal("everything"), ...common });

/** Carries every answered turn, and refuses instead of dropping one. */
export const everything: Policy<typeof schema> = { schema, most: () => ({}), isWhole: true };
