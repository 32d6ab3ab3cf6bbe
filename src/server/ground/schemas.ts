import { createContext, Script } from "node:vm";
import { Schemas } from "@/core/schema/schema";

/** Milliseconds that a pattern may take on one text. */
const patience = 50;

const script = new Script("pattern.test(text)");

/** Checks by schemas that come from outside: a pattern that runs away is cut off, and counts as one that does not match. */
export const guardedSchemas = new Schemas((source, flags) => {
  const pattern = new RegExp(source, flags);
  return (text) => {
    try {
      return script.runInContext(createContext({ pattern, text }), { timeout: patience }) === true;
    } catch {
      return false;
    }
  };
});
