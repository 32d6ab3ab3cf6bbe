import { type Problem, type ProblemKind, problem } from "../problem/problem";
import { framingIn, framingOf } from "./framing/framings";
import { excerpt, parseJson, wordOf, written } from "./json";
import type { CompiledProfile } from "./profile";
import type { Around, Standing } from "./reading/standing";
import { waitIn } from "./reading/wait";

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
  /** When it came, in milliseconds since 1970, for waits that are told as a date. */
  at?: number;
}

/** What is known of an answer beside its documents. */
export function aroundOf({ headers = {}, at = 0 }: AnswerHead): Around {
  return { headers, at };
}

/** The problem that an answer with an error status reports. */
export function problemOf(profile: CompiledProfile, head: AnswerHead, text: string): Problem {
  const document = documentIn(text, profile);
  const around = aroundOf(head);
  const { message } = profile.problem;
  const words = message.first(document) ?? message.inHeaders(around.headers) ?? excerpt(text);
  const redirect = head.status < 400 ? " (a redirect, which is not followed since the call carries a key)" : "";
  const said = words ? `: ${saying(words)}` : " and no explanation.";
  const retryAfter = head.retryAfter ?? retryAfterIn(profile, document, around);
  return problem(
    kindOf(profile, head.status, document, around),
    `The provider answered with status ${head.status}${redirect}${said}`,
    retryAfter === undefined ? {} : { retryAfter },
  );
}

/** The document of an answer; where it is framed as a stream, the first in which an error stands. */
function documentIn(text: string, profile: CompiledProfile): unknown {
  const document = parseJson(text);
  if (document !== undefined) return document;
  const cutter = framingOf(framingIn(text)).cutter?.();
  const frames = cutter ? [...cutter.feed(`${text}\n\n`), ...cutter.close()] : [];
  const documents = frames.slice(0, mostLookedAt).map(({ data }) => parseJson(data));
  return documents.find((each) => profile.problem.message.first(each) !== undefined) ?? documents[0];
}

/** Events of an answer with an error status that are looked at. */
const mostLookedAt = 20;

/** The problem that stands inside an answer which began well. */
export function problemIn(profile: CompiledProfile, document: unknown, around: Around): Problem {
  const message = profile.problem.message.first(document);
  const said = message === undefined || message === null ? "an error without words" : saying(message);
  const retryAfter = retryAfterIn(profile, document, around);
  const code = codeIn(profile, document, around);
  const kind = namedKind(profile, code) ?? "reported";
  const unnamed = kind === "reported" && code !== undefined && code !== said ? ` (code ${saying(code)})` : "";
  return problem(kind, `The provider reports: ${said}${unnamed}`, retryAfter === undefined ? {} : { retryAfter });
}

/** Members that hold the words of an error, where nobody said which. */
const usualWords = ["message", "detail", "error", "reason", "description", "title"];

/** The problem that an event reports by its name alone. */
export function bareProblem(profile: CompiledProfile, document: unknown, around: Around): Problem {
  const found = problemIn(profile, document, around);
  const members = typeof document === "object" && document !== null ? (document as Record<string, unknown>) : {};
  const inner = usualWords.map((name) => members[name]).find((each) => typeof each === "object" && each !== null);
  const words = [members, (inner ?? {}) as Record<string, unknown>]
    .flatMap((each) => usualWords.map((name) => each[name]))
    .find((each) => typeof each === "string" && each !== "");
  return { ...found, detail: `The provider reports: ${saying(words ?? document)}` };
}

/** Characters of a provider's own words about a failure that are kept. */
const longestSaying = 2_000;

function saying(message: unknown): string {
  const words = written(message);
  return words.length > longestSaying ? `${words.slice(0, longestSaying)}…` : words;
}

/** What a failure is, by the word in its body first and by its HTTP status else. */
function kindOf(profile: CompiledProfile, status: number, document: unknown, around: Around): ProblemKind {
  const named = namedKind(profile, codeIn(profile, document, around));
  if (named) return named;
  if (status >= 300 && status < 400) return "misconfigured";
  const { statuses } = profile.source.answer.problem;
  return statuses[String(status)] ?? (status >= 500 ? "overloaded" : "bad-reply");
}

/** The word by which an error says what it is; undefined where it has none. */
function codeIn({ problem }: CompiledProfile, document: unknown, { headers }: Around): string | undefined {
  return wordOf(problem.code?.first(document)) ?? problem.code?.inHeaders(headers);
}

/** What a profile takes the word of an error for: a code, or an HTTP status that stands in the body. */
function namedKind({ source }: CompiledProfile, code: string | undefined): ProblemKind | undefined {
  const { codes, statuses } = source.answer.problem;
  if (code === undefined) return undefined;
  const byCode = Object.hasOwn(codes, code) ? codes[code] : undefined;
  return byCode ?? (/^[45]\d\d$/.test(code) ? statuses[code] : undefined);
}

/** The wait that a problem names, in seconds. */
function retryAfterIn({ problem }: CompiledProfile, document: unknown, { headers, at }: Around): number | undefined {
  for (const { standing, unit } of problem.retryAfter) {
    const wait = waitIn(standing.inHeaders(headers) ?? standing.first(document), unit, at);
    if (wait !== undefined) return wait;
  }
  return undefined;
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
  const last = (standing: Standing | undefined) =>
    (
      standing?.inHeaders(headers) ??
      documents.map((each) => wordOf(standing?.first(each))).findLast((each) => each !== undefined)
    )?.slice(0, 200);
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
