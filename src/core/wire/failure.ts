import { type Problem, type ProblemKind, problem } from "../problem/problem";
import { excerpt, parseJson, wordOf, written } from "./json";
import type { CompiledPlace, CompiledProfile } from "./profile";

/** What is known of an answer before its body comes. */
export interface AnswerHead {
  status: number;
  /** The Content-Type header; empty where there is none. */
  contentType: string;
  /** All headers, by their names in small letters. */
  headers?: Record<string, string>;
  /** Seconds, from a Retry-After header. */
  retryAfter?: number;
  /** Whether a stream was asked for; true unless said otherwise. */
  streamed?: boolean;
}

/** The problem that an answer with an error status reports. */
export function problemOf(profile: CompiledProfile, head: AnswerHead, text: string): Problem {
  const document = parseJson(text);
  const message = profile.problem.message.first(document) ?? excerpt(text);
  const redirect = head.status < 400 ? " (a redirect, which is not followed since the call carries a key)" : "";
  const said = message ? `: ${saying(message)}` : " and no explanation.";
  const retryAfter = head.retryAfter ?? retryAfterIn(profile, head, document);
  return problem(
    kindOf(profile, head.status, document),
    `The provider answered with status ${head.status}${redirect}${said}`,
    retryAfter === undefined ? {} : { retryAfter },
  );
}

/** The problem that stands inside an answer which began well. */
export function problemIn(profile: CompiledProfile, document: unknown): Problem {
  const message = profile.problem.message.first(document);
  const said = message === undefined || message === null ? "an error without words" : saying(message);
  const retryAfter = retryAfterIn(profile, undefined, document);
  const code = codeIn(profile, document);
  const kind = namedKind(profile, code) ?? "reported";
  const unnamed = kind === "reported" && code !== undefined && code !== said ? ` (code ${saying(code)})` : "";
  return problem(kind, `The provider reports: ${said}${unnamed}`, retryAfter === undefined ? {} : { retryAfter });
}

/** Characters of a provider's own words about a failure that are kept. */
const longestSaying = 2_000;

function saying(message: unknown): string {
  const words = written(message);
  return words.length > longestSaying ? `${words.slice(0, longestSaying)}…` : words;
}

/** What a failure is, by the word in its body first and by its HTTP status else. */
function kindOf(profile: CompiledProfile, status: number, document: unknown): ProblemKind {
  const named = namedKind(profile, codeIn(profile, document));
  if (named) return named;
  if (status >= 300 && status < 400) return "misconfigured";
  const { statuses } = profile.source.answer.problem;
  return statuses[String(status)] ?? (status >= 500 ? "overloaded" : "bad-reply");
}

/** The word by which an error says what it is; undefined where it has none. */
function codeIn({ problem }: CompiledProfile, document: unknown): string | undefined {
  return wordOf(problem.code?.first(document));
}

/** What a profile takes the word of an error for: a code, or an HTTP status that stands in the body. */
function namedKind({ source }: CompiledProfile, code: string | undefined): ProblemKind | undefined {
  const { codes, statuses } = source.answer.problem;
  if (code === undefined) return undefined;
  const byCode = Object.hasOwn(codes, code) ? codes[code] : undefined;
  return byCode ?? (/^[45]\d\d$/.test(code) ? statuses[code] : undefined);
}

/** The longest wait that a provider may ask for, in seconds: a day. */
const longestWait = 86_400;

/** A wait in seconds, unless it is none or no sane one. */
export function saneWait(seconds: number): number | undefined {
  return seconds >= 0 && seconds <= longestWait ? seconds : undefined;
}

function retryAfterIn(
  { problem }: CompiledProfile,
  head: AnswerHead | undefined,
  document: unknown,
): number | undefined {
  if (!problem.retryAfter) return undefined;
  const value = Number(wordOf(valueAt(problem.retryAfter, head?.headers ?? {}, document)) ?? Number.NaN);
  return saneWait(problem.retryAfter.unit === "ms" ? value / 1000 : value);
}

/** What is left of a rate limit. */
export interface RateLimit {
  of: string;
  left: string;
  most?: string;
  resets?: string;
}

/** The rate limits that an answer tells of, in its headers and in its documents. */
export function rateLimitsIn(
  profile: CompiledProfile,
  headers: Record<string, string>,
  documents: readonly unknown[],
): RateLimit[] {
  const last = (place: CompiledPlace | undefined) => {
    if (!place) return undefined;
    return [undefined, ...documents]
      .map((each) => wordOf(valueAt(place, headers, each))?.slice(0, 200))
      .findLast((each) => each !== undefined);
  };
  return profile.limits.flatMap(({ of, left, most, resets }) => {
    const value = last(left);
    const limit = { of, left: value ?? "", most: last(most), resets: last(resets) };
    return value === undefined ? [] : [limit];
  });
}

/** The share of a limit below which it is about to end. */
const little = 0.1;

/** Whether little is left of a rate limit; not where that is not told in numbers. */
export function isLow({ left, most }: RateLimit): boolean {
  const [has, of] = [Number(left), Number(most)];
  return left.trim() !== "" && most !== undefined && of > 0 && has <= of * little;
}

function valueAt({ header, at }: CompiledPlace, headers: Record<string, string>, document: unknown): unknown {
  return (header === undefined ? undefined : headers[header]) ?? at?.first(document);
}
