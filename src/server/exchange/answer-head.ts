import type { AnswerHead } from "@/core/wire/decode";
import { saneWait } from "@/core/wire/failure";

/** Headers as they come: one of a name, or several. */
export type AnswerHeaders = Record<string, string | string[] | undefined>;

/** The head of an answer. */
export function headOf(status: number, given: AnswerHeaders): AnswerHead & { headers: Record<string, string> } {
  const headers = Object.fromEntries(
    Object.entries(given).map(([name, value]) => [name, Array.isArray(value) ? value.join(", ") : (value ?? "")]),
  );
  const contentType = headers["content-type"] ?? "";
  return { status, contentType, headers, retryAfter: secondsIn(headers["retry-after"]) };
}

/**
 * Seconds from a Retry-After header (RFC 9110, 10.2.3), which gives seconds or a date; undefined where that is no sane
 * wait. A date of the asctime form (5.6.7) names no zone, and is GMT.
 */
function secondsIn(header: string | undefined): number | undefined {
  if (header === undefined || header.trim() === "") return undefined;
  const value = Number(header);
  if (!Number.isNaN(value)) return saneWait(Math.max(value, 0));
  const isAsctime = /^\w{3} \w{3} [ \d]\d \d\d:\d\d:\d\d \d{4}$/.test(header.trim());
  const date = Date.parse(isAsctime ? `${header} GMT` : header);
  return Number.isNaN(date) ? undefined : saneWait(Math.max(Math.ceil((date - Date.now()) / 1000), 0));
}
