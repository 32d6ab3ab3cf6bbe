import { z } from "zod";
import { everything } from "./everything";
import type { Policy } from "./policy";

/** Every memory policy, by its kind. */
export const policies = { everything } satisfies Record<string, Policy>;

/** What an app remembers between turns. */
export const memorySchema = z.discriminatedUnion("kind", [everything.schema]);
export type Memory = z.infer<typeof memorySchema>;
