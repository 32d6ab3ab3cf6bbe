import { z } from "zod";
import { everything } from "./everything";
import { fitting } from "./fitting";
import { lastMessages } from "./last-messages";
import { lastTurns } from "./last-turns";
import { nothing } from "./nothing";
import type { Policy } from "./policy";
import { summary } from "./summary";

/** Every memory policy, by its kind. */
export const policies = {
  everything,
  "last-turns": lastTurns,
  "last-messages": lastMessages,
  fitting,
  summary,
  nothing,
};
export type MemoryKind = keyof typeof policies;

type Schema = (typeof policies)[MemoryKind]["schema"];
const schemas = Object.values(policies).map(({ schema }) => schema);

/** What an app remembers between turns. */
export const memorySchema = z.discriminatedUnion("kind", schemas as [Schema, ...Schema[]]);
export type Memory = z.infer<typeof memorySchema>;

/** The policy of a memory. */
export function policyOf(memory: Memory): Policy {
  return policies[memory.kind] as unknown as Policy;
}
