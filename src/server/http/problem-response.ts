import { type ErrorShape, problemDocuments } from "@/contract/call";
import type { ProblemExtras } from "@/contract/problem";
import { type Problem, statusOf } from "@/core/problem/problem";

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
