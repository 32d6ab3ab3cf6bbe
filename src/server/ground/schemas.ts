import { createContext, Script } from "node:vm";
import { Schemas } from "@/core/schema/schema";

/** Milliseconds that a pattern may take on one text. */
const patience = 50;
/** How often one is tried that was cut off while the machine was busy elsewhere. */
const mostTries = 4;

const script = new Script("pattern.test(text)");

/** Checks by schemas that come from outside: a pattern that runs away is cut off, and counts as one that does not match. */
export const guardedSchemas = new Schemas((source, flags) => {
  const pattern = new RegExp(source, flags);
  return (text) => {
    const context = createContext({ pattern, text });
    for (let tries = 0; tries < mostTries; tries += 1) {
      const before = process.cpuUsage();
      try {
        return script.runInContext(context, { timeout: patience }) === true;
      } catch {
        const { user, system } = process.cpuUsage(before);
        // a pattern that runs away takes all of its time; one that stood still with the machine takes none
        if (user + system > (patience / 2) * 1000) return false;
      }
    }
    return false;
  };
});
