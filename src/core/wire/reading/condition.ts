import type { Path } from "../path";

/** What has to hold of an event, its paths compiled. */
export interface CompiledCondition {
  event?: string;
  at?: Path;
  is?: readonly unknown[];
  remembered?: string;
  /** What must not hold beside. */
  not?: CompiledCondition;
}

/** Whether a condition holds for an event, as far as it does not ask for what was remembered. */
export function holds({ event, at, is, not }: CompiledCondition, name: string, document: unknown): boolean {
  if (event !== undefined && event !== name) return false;
  if (not && holds(not, name, document)) return false;
  if (!at) return true;
  const value = at.first(document);
  return is ? is.includes(value) : value !== undefined && value !== null;
}
