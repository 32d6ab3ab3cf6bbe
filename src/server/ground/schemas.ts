import { createContext, Script } from "node:vm";
import { Schemas } from "@/core/schema/schema";

/**
 * Milliseconds that a pattern may take on one text. The clock that cuts it off goes on while the process stands still, as
 * it does on a busy machine and when its memory is tidied: so what was cut off is tried once more, for longer.
 */
const patience = [50, 100];

/** What patterns are tried in: one for all, since making one takes longer than most patterns do. */
const tried: { pattern?: RegExp; text?: string } = createContext({});
const script = new Script("pattern.test(text)");

/** Checks by schemas that come from outside: a pattern that runs away is cut off, and counts as one that does not match. */
export const guardedSchemas = new Schemas((source, flags) => {
  const pattern = new RegExp(source, flags);
  // one that did the last time is not waited for twice
  let hasRunAway = false;
  return (text) => {
    Object.assign(tried, { pattern, text });
    for (const timeout of hasRunAway ? patience.slice(0, 1) : patience)
      try {
        const matches = script.runInContext(tried, { timeout }) === true;
        hasRunAway = false;
        return matches;
      } catch (error) {
        // what can't be tried at all does not match either
        if ((error as NodeJS.ErrnoException).code !== "ERR_SCRIPT_EXECUTION_TIMEOUT") return false;
      }
    hasRunAway = true;
    return false;
  };
});
