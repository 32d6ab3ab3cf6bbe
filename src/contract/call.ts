import { z } from "zod";
import type { Problem, ProblemKind } from "@/core/problem/problem";
import { isDeeperThan } from "@/core/wire/json";
import { type Parsed, parse } from "./parse";
import { type ProblemExtras, problemDocument, problemDocumentSchema } from "./problem";

export type Method = "GET" | "POST" | "PUT" | "PATCH" | "DELETE";

/** What a call takes as its body. */
export interface Body<S extends z.ZodType = z.ZodType> {
  /** Its media type. */
  type: string;
  /** Bytes that it may have. */
  largest: number;
  schema: S;
  /** What a text holds; a value or a problem, never an error. */
  parse(text: string): Parsed<z.output<S>>;
}

/** What an answer is made of; one of several kinds where the caller may choose by `Accept` or `Prefer`. */
export type Answer<S extends z.ZodType = z.ZodType> =
  | { kind: "json"; schema: S }
  /** Server-sent events, the data of each by the schema. */
  | { kind: "events"; schema: S }
  /** NDJSON, each line by the schema. */
  | { kind: "lines"; schema: S }
  /** Text of another media type. */
  | { kind: "text"; type: string; schema: z.ZodType<string> }
  /** Bytes, of one of some media types. */
  | { kind: "bytes"; types: readonly string[] }
  | { kind: "nothing" };

export type Answers = Readonly<Record<number, Answer | readonly Answer[]>>;

/** How the errors of a call are written. */
export interface ErrorShape {
  type: string;
  schema: z.ZodType;
  write(problem: Problem, extras: ProblemExtras): unknown;
}

/** Who may call: the developer's bench, whoever uses an app, or anyone. */
export type By = "bench" | "visitor" | "anyone";

/** A call that crosses HTTP: all that its route, its client, its tests and its docs are made from. */
export interface Call<
  P extends string = string,
  Q extends z.ZodType | undefined = z.ZodType | undefined,
  B extends Body | undefined = Body | undefined,
  A extends Answers = Answers,
  W extends By = By,
> {
  method: Method;
  /** With its parameters in braces: `/api/apps/{slug}`. */
  path: P;
  /** What it does, in a sentence. */
  does: string;
  by: W;
  /** Parameters of the query; those that are not given are left out. */
  query: Q;
  /** Headers that mean something to it, by their names in lower case. */
  headers: readonly string[];
  body: B;
  /** What bytes it takes as its body: media types, and how many. Whoever answers reads them. */
  takes?: { types: readonly string[]; largest: number };
  /** By status; the first is the usual one. */
  answers: A;
  /** Kinds of problem that it answers with, beside those that any call can meet. */
  problems: readonly ProblemKind[];
  errors: ErrorShape;
  /** A call that works as it stands. */
  example?: Example;
}

/** What an example sends; parameters of the path are those of the call that it is shown to. */
export interface Example {
  headers?: Readonly<Record<string, string>>;
  body?: unknown;
}

/** Problems that any call can meet. */
export const commonProblems: readonly ProblemKind[] = [
  "bad-request",
  "forbidden",
  "wrong-method",
  "too-large",
  "no-storage",
  "closing",
  "internal",
];

/** Problem documents, as RFC 9457 has them. */
export const problemDocuments: ErrorShape = {
  type: "application/problem+json",
  schema: problemDocumentSchema,
  write: problemDocument,
};

type Declared<P extends string, Q, B, A, W> = {
  method: Method;
  path: P;
  does: string;
  by: W;
  query?: Q;
  headers?: readonly string[];
  body?: B;
  takes?: Call["takes"];
  answers: A;
  problems?: readonly ProblemKind[];
  errors?: ErrorShape;
  example?: Example;
};

/** Declares a call. */
export function call<
  const P extends string,
  const A extends Answers,
  const W extends By,
  Q extends z.ZodType | undefined = undefined,
  B extends Body | undefined = undefined,
>(declared: Declared<P, Q, B, A, W>): Call<P, Q, B, A, W> {
  const usual = { query: undefined as Q, body: undefined as B, headers: [], problems: [], errors: problemDocuments };
  return { ...usual, ...declared };
}

const mebibyte = 1024 * 1024;

/** Levels that the JSON of a body may be nested. */
const deepest = 100;

/** A body of JSON. @param read what a value holds, where the schema alone would say it badly */
export function jsonBody<S extends z.ZodType>(
  schema: S,
  read: (value: unknown) => Parsed<z.output<S>> = (value) => parse(schema, value),
): Body<S> {
  return {
    type: "application/json",
    largest: mebibyte,
    schema,
    parse(text) {
      const value = jsonIn(text);
      return value.ok ? read(value.value) : value;
    },
  };
}

function jsonIn(text: string): Parsed<unknown> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    const detail = text === "" ? "The body is empty." : `The body is not JSON: ${(error as Error).message}.`;
    return { ok: false, problem: { kind: "bad-request", detail, advice: "Send a JSON object." } };
  }
  if (!isDeeperThan(value, deepest)) return { ok: true, value };
  return parse(z.never({ error: `is nested more than ${deepest} levels deep` }), value);
}

export function json<S extends z.ZodType>(schema: S): { kind: "json"; schema: S } {
  return { kind: "json", schema };
}

export function events<S extends z.ZodType>(schema: S): { kind: "events"; schema: S } {
  return { kind: "events", schema };
}

export function lines<S extends z.ZodType>(schema: S): { kind: "lines"; schema: S } {
  return { kind: "lines", schema };
}

export function text(type: string): { kind: "text"; type: string; schema: z.ZodType<string> } {
  return { kind: "text", type, schema: z.string() };
}

/** An answer of bytes, of one of some media types. */
export function bytes(types: readonly string[]): { kind: "bytes"; types: readonly string[] } {
  return { kind: "bytes", types };
}

export const nothing = { kind: "nothing" } as const;

/** The names of a path's parameters. */
export type ParamsOf<P extends string> = P extends `${string}{${infer Name}}${infer Rest}`
  ? Name | ParamsOf<Rest>
  : never;

/** What a caller gives: parameters of the path, of the query, and the body. */
export type InputOf<C extends Call> = Record<ParamsOf<C["path"]>, string> &
  (C["query"] extends z.ZodType ? z.input<C["query"]> : unknown) &
  (C["body"] extends Body<infer S> ? { body: z.input<S> } : unknown);

type Each<T> = T extends readonly (infer E)[] ? E : T;
type SchemaIn<A, K> =
  Each<A> extends infer E
    ? E extends { kind: infer G; schema: infer S extends z.ZodType }
      ? G extends K
        ? S
        : never
      : never
    : never;
// biome-ignore lint/suspicious/noConfusingVoidType: what answers nothing gives nothing back
type NothingIn<A> = Each<A> extends infer E ? (E extends { kind: "nothing" } ? void : never) : never;

/** What a caller gets that asked for neither events nor lines. */
export type AnswerOf<C extends Call> =
  | z.output<SchemaIn<C["answers"][keyof C["answers"]], "json">>
  | NothingIn<C["answers"][keyof C["answers"]]>;

/** An answer as whoever answers gives it, before it is parsed on its way out. */
export type GivenOf<C extends Call> =
  | z.input<SchemaIn<C["answers"][keyof C["answers"]], "json" | "text">>
  | NothingIn<C["answers"][keyof C["answers"]]>;

/** One line of an answer that comes in lines. */
export type LineOf<C extends Call> = z.output<SchemaIn<C["answers"][keyof C["answers"]], "lines">>;

/** The kinds of answer at a status. */
export function answersAt({ answers }: Call, status: number): readonly Answer[] {
  const declared = answers[status];
  if (declared === undefined) return [];
  return "kind" in declared ? [declared] : declared;
}

/** The path of a call with its parameters filled in, and with its query. */
export function addressFor<C extends Call>({ path, query }: C, input: Omit<InputOf<C>, "body">): string {
  const given = input as Record<string, unknown>;
  const filled = path.replace(/\{(\w+)\}/g, (_all, name: string) => encodeURIComponent(String(given[name])));
  if (!(query instanceof z.ZodObject)) return filled;
  const asked = Object.keys(query.shape).flatMap((name) =>
    given[name] === undefined || given[name] === null ? [] : [[name, String(given[name])]],
  );
  return asked.length === 0 ? filled : `${filled}?${new URLSearchParams(asked)}`;
}

/** The command that makes a call's example. @param base scheme, host and port */
export function commandFor<C extends Call>(declared: C, base: string, input: Omit<InputOf<C>, "body">): string {
  const { method, example = {} } = declared;
  const { headers = {}, body } = example;
  const streams = Object.values(headers).some((value) => value === "text/event-stream");
  const parts = [`curl${streams ? " -N" : ""}`];
  if (method !== (body === undefined ? "GET" : "POST")) parts.push(`-X ${method}`);
  parts.push(`${base}${addressFor(declared, input)}`);
  if (body !== undefined) parts.push("-H 'content-type: application/json'");
  for (const [name, value] of Object.entries(headers)) parts.push(`-H ${quoted(`${name}: ${value}`)}`);
  if (body !== undefined) parts.push(`-d ${quoted(JSON.stringify(body))}`);
  return parts.join(" ");
}

/** A word of a shell's command line (POSIX), whatever it holds. */
export function quoted(text: string): string {
  return `'${text.replace(/'/g, "'\\''")}'`;
}
