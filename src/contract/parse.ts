import type { z } from "zod";
import { type Problem, problem } from "@/core/problem/problem";

export type Parsed<T> = { ok: true; value: T } | { ok: false; problem: Problem };

/** Parses what came over HTTP; what does not fit is a bad-request that names the place. */
export function parse<S extends z.ZodType>(schema: S, input: unknown): Parsed<z.output<S>> {
  const result = schema.safeParse(input);
  return result.success
    ? { ok: true, value: result.data }
    : { ok: false, problem: problem("bad-request", describe(result.error)) };
}

function describe(error: z.ZodError): string {
  const issue = error.issues[0];
  if (!issue) return "The body does not fit.";
  const place = issue.path.map(String).join(".");
  if (issue.code === "unrecognized_keys") {
    const names = issue.keys.map((key) => `\`${key}\``).join(", ");
    return `There is no field ${names}${place ? ` in \`${place}\`` : ""}.`;
  }
  const message = issue.code === "invalid_key" ? (issue.issues[0]?.message ?? issue.message) : issue.message;
  return place ? `\`${place}\`: ${message}.` : `The body: ${message}.`;
}
