import type { AnswerHead } from "@/core/wire/decode";
import { waitIn } from "@/core/wire/reading/wait";

/** Headers as they come: one of a name, or several. */
export type AnswerHeaders = Record<string, string | string[] | undefined>;

/** The head of an answer. */
export function headOf(status: number, given: AnswerHeaders): AnswerHead & { headers: Record<string, string> } {
  const headers = Object.fromEntries(
    Object.entries(given).map(([name, value]) => [name, Array.isArray(value) ? value.join(", ") : (value ?? "")]),
  );
  const contentType = headers["content-type"] ?? "";
  const at = Date.now();
  // RFC 9110, 10.2.3: seconds or a date
  return { status, contentType, headers, at, retryAfter: waitIn(headers["retry-after"], "s", at) };
}
