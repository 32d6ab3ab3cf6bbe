import { CallFailed, Client } from "@/contract/client";
import { type Problem, problem } from "@/core/problem/problem";

/** The server that this page came from. */
export const server = new Client();

/**
 * The problem that an error tells of: the one that the server answered with, or else that of an answer
 * which could not be read.
 * @param what was asked for, as it stands at the beginning of a sentence
 */
export function problemIn(error: unknown, what: string): Problem {
  if (error instanceof CallFailed) return error.problem;
  const why = error instanceof Error ? error.message.slice(0, 300) : String(error);
  return problem("internal", `${what} could not be carried out: ${why}`, {
    advice: "Reload the page; nothing that is stored is touched by this.",
  });
}
