import type { z } from "zod";
import { type ProblemExtras, problemDocument } from "@/contract/problem";
import type { Problem } from "@/core/problem/problem";

/** The HTTP answer for a problem: a problem document (RFC 9457). */
export function problemResponse(
  problem: Problem,
  extras: ProblemExtras = {},
  headers: Record<string, string> = {},
): Response {
  const document = problemDocument(problem, extras);
  const wait: Record<string, string> =
    problem.retryAfter === undefined ? {} : { "retry-after": String(Math.ceil(problem.retryAfter)) };
  return new Response(JSON.stringify(document), {
    status: document.status,
    headers: { "content-type": "application/problem+json", "cache-control": "no-store", ...wait, ...headers },
  });
}

/**
 * A JSON answer, which is not kept by anything on the way. It is parsed by its schema, so that only
 * what is declared leaves.
 */
export function json<S extends z.ZodType>(
  schema: S,
  body: z.input<S>,
  status = 200,
  headers: Record<string, string> = {},
): Response {
  return new Response(JSON.stringify(schema.parse(body)), {
    status,
    headers: { "content-type": "application/json", "cache-control": "no-store", ...headers },
  });
}
