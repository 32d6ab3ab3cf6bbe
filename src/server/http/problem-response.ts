import { type ErrorShape, problemDocuments } from "@/contract/call";
import { commonErrors } from "@/contract/common";
import type { ProblemExtras } from "@/contract/problem";
import { type Problem, statusOf } from "@/core/problem/problem";

/** How errors are written at a path: below `v1` in the shape that most model servers share, the call that was meant there or not. */
export function errorsAt(path: string): ErrorShape {
  return /^\/api\/apps\/[^/]+\/v1(?:\/|$)/.test(path) ? commonErrors : problemDocuments;
}

/** The HTTP answer for a problem, in the shape that a call has for its errors. */
export function problemResponse(
  problem: Problem,
  extras: ProblemExtras = {},
  { type, write }: ErrorShape = problemDocuments,
  headers: Record<string, string> = {},
): Response {
  const wait: Record<string, string> =
    problem.retryAfter === undefined ? {} : { "retry-after": String(Math.ceil(problem.retryAfter)) };
  return new Response(JSON.stringify(write(problem, extras)), {
    status: statusOf(problem.kind),
    headers: { "content-type": type, "cache-control": "no-store", ...wait, ...headers },
  });
}
