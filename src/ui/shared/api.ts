import type { z } from "zod";
import { type ProblemDocument, problemDocument, problemDocumentSchema } from "@/contract/problem";
import { problem } from "@/core/reply/problem";

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
  return answers.parse(await (await send(method, path, body)).json());
}

/** The same for a call that answers nothing. */
export async function tell(method: string, path: string, body?: unknown): Promise<void> {
  await send(method, path, body);
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
  const document = problemDocumentSchema.safeParse(await response.json().catch(() => undefined));
  throw new CallFailed(
    document.success
      ? document.data
      : problemDocument(problem("internal", `The server answered with status ${response.status}.`)),
  );
}
