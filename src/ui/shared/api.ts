import type { z } from "zod";
import { type ProblemDocument, problemDocument, problemDocumentSchema } from "@/contract/problem";
import { type Problem, problem } from "@/core/problem/problem";

/** Thrown when a call fails, with the problem document that came back. */
export class CallFailed extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}

/**
 * Calls the server and gives what its answer holds.
 * @throws {CallFailed}
 */
export async function call<S extends z.ZodType>(
  method: string,
  path: string,
  answers: S,
  body?: unknown,
): Promise<z.output<S>> {
  const response = await send(method, path, body);
  const answer = answers.safeParse(await response.json().catch(() => undefined));
  if (answer.success) return answer.data;
  const place = answer.error.issues[0]?.path.map(String).join(".") ?? "";
  throw new CallFailed(
    problemDocument(
      problem("internal", `The answer of ${method} ${path} is not as expected${place ? `, at ${place}` : ""}.`, {
        advice: "Reload the page; if it stays so, the server is of another version than the page.",
      }),
    ),
  );
}

/** The same for a call that answers nothing. */
export async function tell(method: string, path: string, body?: unknown): Promise<void> {
  await send(method, path, body);
}

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

async function send(method: string, path: string, body: unknown): Promise<Response> {
  const init: RequestInit =
    body === undefined
      ? { method }
      : { method, body: JSON.stringify(body), headers: { "content-type": "application/json" } };
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new CallFailed(
      problemDocument(
        problem("unreachable", "Unruly Finch itself does not answer.", {
          advice: "See whether it still runs in its terminal; nothing you typed is lost.",
        }),
      ),
    );
  }
  if (response.ok) return response;
  throw await failureOf(response);
}

/** The failure that an answer tells of. */
export async function failureOf(response: Response): Promise<CallFailed> {
  const document = problemDocumentSchema.safeParse(await response.json().catch(() => undefined));
  return new CallFailed(
    document.success
      ? document.data
      : problemDocument(problem("internal", `The server answered with status ${response.status}.`)),
  );
}
