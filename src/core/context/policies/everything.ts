import { z } from "zod";
import type { Policy } from "./policy";

/** Carries every answered turn, and refuses instead of dropping one. */
export const everything = {
  schema: z.strictObject({ kind: z.literal("everything") }),
} satisfies Policy;
