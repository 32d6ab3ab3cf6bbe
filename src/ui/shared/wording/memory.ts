import type { Memory } from "@/core/context/policies/policies";
import { count, many } from "../format";

/** A policy in a few words. */
export function shortly(memory: Memory): string {
  switch (memory.kind) {
    case "last-turns":
      return `last ${many(memory.turns, "turn")}`;
    case "last-messages":
      return `last ${many(memory.messages, "message")}`;
    case "fitting":
      return `what fits ${count(memory.tokens)}`;
    case "summary":
      return `summary, ${many(memory.turns, "turn")}`;
    case "nothing":
      return "no turns";
    case "everything":
      return "everything";
  }
}

/** What a memory carries, with what else is set of it. */
export function wordsOfMemory(memory: Memory): string {
  const { as, apart } = memory;
  const within = "within" in memory ? memory.within : undefined;
  return [
    shortly(memory),
    within !== undefined && `within ${count(within)} tokens`,
    apart && "each model only what it answered",
    as === "text" && "as text in the prompt",
    memory.kind === "summary" && memory.by && `summed up by ${memory.by.model}`,
    memory.kind === "summary" && memory.prompt !== undefined && `told to: ${memory.prompt}`,
  ]
    .filter(Boolean)
    .join(", ");
}
