import { z } from "zod";
import { everything } from "./everything";
import type { Policy } from "./policy";

/** Every memory policy, by its kind. */
export const policies = { everything } satisfies Record<string, Policy>;

type Schema = (typeof policies)[keyof typeof policies]["schema"];
const schemas = Object.values(policies).map(({ schema }) => schema);

/** What an app remembers between turns. */
export const memorySchema = z.discriminatedUnion("kind", schemas as [Schema, ...Schema[]]);
export type Memory = z.infer<typeof memorySchema>;
