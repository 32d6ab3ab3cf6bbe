import { CallFailed, Client } from "@/contract/client";
import { problemDocument } from "@/contract/problem";
import { type Problem, problem } from "@/core/problem/problem";

declare module "@tanstack/react-query" {
  interface Register {
    defaultError: CallFailed;
  }
}

/** The server that this page came from. */
export const server = new Client();

/**
 * An error as the failure of a call: the one that it is, or else that of an answer which could not be read.
 * @param what was asked for, as it stands at the beginning of a sentence
 */
export function failureIn(error: unknown, what: string): CallFailed {
  if (error instanceof CallFailed) return error;
  const why = error instanceof Error ? error.message.slice(0, 300) : String(error);
  return new CallFailed(
    problemDocument(
      problem("internal", `${what} could not be carried out: ${why}`, {
        advice: "Reload the page; nothing that is stored is touched by this.",
      }),
    ),
  );
}

/** The problem that an error tells of. */
export function problemIn(error: unknown, what: string): Problem {
  return failureIn(error, what).problem;
}
