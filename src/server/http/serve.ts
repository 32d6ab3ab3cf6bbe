import type { z } from "zod";
import {
  answersAt,
  type Body,
  type Call,
  commandFor,
  type ErrorShape,
  type GivenOf,
  type InputOf,
  type ParamsOf,
} from "@/contract/call";
import { exampleFor } from "@/contract/example";
import { type Parsed, parse } from "@/contract/parse";
import type { ProblemExtras } from "@/contract/problem";
import { type Problem, problem } from "@/core/problem/problem";
import { appAt, needsOf } from "../apps/app";
import { storageProblem } from "../database/storage";
import type { Home } from "../home";
import { isRefusal, Refusal, refuse } from "../refusal";
import { callHeader, callIdOf } from "./call-id";
import { type Caller, callerOf } from "./caller";
import { doorOf } from "./door";
import { errorsAt, problemResponse } from "./problem-response";
import { rateHeaders } from "./rate";
import { noteRefused, refuseForeign, sharedWith } from "./sharing";

/** What whoever answers a call gets: all that was given, parsed, and the request with its headers. */
export type Served<C extends Call> = Record<ParamsOf<C["path"]>, string> &
  (C["query"] extends z.ZodType ? z.output<C["query"]> : unknown) &
  (C["body"] extends Body<infer S> ? { body: z.output<S>; text: string } : unknown) &
  (C["by"] extends "visitor" ? { caller: Caller } : unknown) & { request: Request };

/** An answer of another status than the usual one, or with headers of its own. */
export class Answered<T> {
  constructor(
    readonly status: number,
    readonly value: T,
    readonly headers: Record<string, string> = {},
  ) {}
}

/** An answer in JSON that was checked and written elsewhere. */
export function written(text: string): Response {
  return new Response(text, { headers: jsonHeaders });
}

const jsonHeaders = { "content-type": "application/json", "cache-control": "no-store" };

type Answering<T> = T | Answered<T> | Response;

/** Answers a call. A refusal that is thrown becomes a problem, in the shape that the call has for its errors. */
export type Handle<C extends Call> = (
  home: Home,
  input: Served<C>,
) => Answering<GivenOf<C>> | Promise<Answering<GivenOf<C>>>;

/** What answers each call of a group of calls. */
export type Handles<T> = { [K in keyof T]: T[K] extends Call ? Handle<T[K]> : Handles<T[K]> };

const methods = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"] as const;
type Route = Record<(typeof methods)[number], (request: Request) => Promise<Response>>;

/** A call with what answers it; its types were checked where the two were put together. */
interface Entry {
  call: Call;
  handle: (home: Home, input: Record<string, unknown>) => unknown;
}

/** The calls at one path, by method. */
interface Place {
  segments: string[];
  entries: Map<string, Entry>;
}

/**
 * A route, as Next wants it, that answers all calls of a contract: it parses what comes in, and what goes
 * out. Another method is answered with 405 and `Allow`, another address with 404.
 */
export function serve<T extends object>(boot: () => Home, calls: T, handles: Handles<T>): Route {
  const places = placesOf(calls, handles as object);
  const answerTo = async (request: Request): Promise<Response> => {
    const { pathname } = new URL(request.url);
    const at = find(places, pathname);
    const { method } = request;
    const entry = at?.place.entries.get(method) ?? (method === "HEAD" ? at?.place.entries.get("GET") : undefined);
    const shape = entry?.call.errors ?? errorsAt(pathname);
    const ofApp = at?.place.segments.join("/").startsWith("/api/apps/{slug}/") ? at : undefined;
    let sharing: Record<string, string> = {};
    let caller: Caller | undefined;
    const withSharing = (response: Response): Response => {
      const rate = caller ? rateHeaders(boot(), caller, Date.now()) : {};
      const own: Record<string, string> =
        entry?.call.by === "visitor" ? { [callHeader]: callIdOf(request), ...rate } : {};
      for (const [name, value] of Object.entries({ ...sharing, ...own })) response.headers.set(name, value);
      return response;
    };
    const called = async (by: Call, params: Record<string, string>) => {
      caller = await callerOf(boot(), appAt(boot(), params.slug ?? ""), by, request);
      return caller;
    };
    try {
      if (ofApp) sharing = sharedWith(boot(), ofApp.params.slug ?? "", allow(ofApp.place).allow, request);
      if (!at) refuse("not-found", `There is nothing at ${pathname}.`);
      if (method === "OPTIONS") {
        if (ofApp) refuseForeign(boot(), ofApp.params.slug ?? "", request);
        return withSharing(new Response(null, { status: 204, headers: allow(at.place) }));
      }
      if (!entry)
        return withSharing(wrongMethod(at.place, method, exampleAt(boot(), at.place, request, at.params), shape));
      const response = withSharing(await answer(boot(), entry, request, at.params, called));
      return method === "HEAD" ? await headOf(response) : response;
    } catch (error) {
      if (!isRefusal(error)) {
        boot().log.error({ error, method, path: pathname }, "a call could not be answered");
        const failure = storageProblem(error);
        return withSharing(
          problemResponse(
            failure ?? problem("internal", "The call could not be answered; the terminal says why."),
            {},
            shape,
          ),
        );
      }
      if (ofApp && !error.isOfReply)
        noteRefused(boot(), ofApp.params.slug ?? "", { path: pathOf(ofApp.place) }, request, error.problem);
      const isMalformed = error.problem.kind === "bad-request";
      const example = isMalformed && at ? exampleAt(boot(), at.place, request, at.params) : {};
      const asking: Record<string, string> =
        error.problem.kind === "unknown-caller" ? { "www-authenticate": "Bearer" } : {};
      return withSharing(problemResponse(error.problem, { ...example, ...error.extras }, shape, asking));
    }
  };
  return Object.fromEntries(methods.map((method) => [method, answerTo])) as Route;
}

/** Answers a call with what its handle gives, parsed by the schema that is declared for the status. */
async function answer(
  home: Home,
  { call, handle }: Entry,
  request: Request,
  params: Record<string, string>,
  callerOf: (call: Call, params: Record<string, string>) => Promise<Caller>,
): Promise<Response> {
  const input: Record<string, unknown> = { ...params, request };
  if (call.by === "visitor") input.caller = await callerOf(call, params);
  if (call.query) Object.assign(input, valid(parse(call.query, queryOf(request))));
  if (call.body) {
    const text = await bodyText(request, call.body.largest);
    Object.assign(input, { text, body: valid(call.body.parse(text)) });
  }
  const given = await handle(home, input);
  if (given instanceof Response) return given;
  const { status, value, headers } =
    given instanceof Answered ? given : new Answered(Number(Object.keys(call.answers)[0]), given);
  const declared = answersAt(call, status).find(({ kind }) => kind === "json" || kind === "text" || kind === "nothing");
  if (!declared) throw new Error(`${call.method} ${call.path} has no answer of status ${status}.`);
  if (declared.kind === "text") {
    const kept = { "content-type": `${declared.type}; charset=utf-8`, "cache-control": "no-cache", ...headers };
    return new Response(declared.schema.parse(value), {
      status,
      headers: { ...kept, "x-content-type-options": "nosniff" },
    });
  }
  if (declared.kind !== "json") return new Response(null, { status, headers });
  return new Response(JSON.stringify(declared.schema.parse(value)), {
    status,
    headers: { ...jsonHeaders, ...headers },
  });
}

/** The places of a tree of calls. */
function placesOf(calls: object, handles: object, places: Place[] = []): Place[] {
  for (const [name, each] of Object.entries(calls)) {
    const handle = (handles as Record<string, unknown>)[name];
    if (!("path" in each)) {
      placesOf(each, handle as object, places);
      continue;
    }
    const call = each as Call;
    const segments = call.path.split("/");
    let place = places.find((other) => other.segments.join("/") === call.path);
    if (!place) {
      place = { segments, entries: new Map() };
      places.push(place);
    }
    place.entries.set(call.method, { call, handle: handle as Entry["handle"] });
  }
  return places;
}

/** The place of a path, and its parameters. What a path spells out goes before what it leaves open. */
function find(places: Place[], path: string): { place: Place; params: Record<string, string> } | undefined {
  const given = path.split("/");
  let found: { place: Place; params: Record<string, string> } | undefined;
  for (const place of places) {
    const params = match(place.segments, given);
    if (params && (!found || Object.keys(params).length < Object.keys(found.params).length)) found = { place, params };
  }
  return found;
}

function match(segments: string[], given: string[]): Record<string, string> | undefined {
  if (segments.length !== given.length) return undefined;
  const params: Record<string, string> = {};
  for (const [at, segment] of segments.entries()) {
    const value = given[at] ?? "";
    const name = /^\{(\w+)\}$/.exec(segment)?.[1];
    if (name === undefined) {
      if (segment !== value) return undefined;
      continue;
    }
    try {
      params[name] = decodeURIComponent(value);
    } catch {
      // not percent-encoded UTF-8 (RFC 3986, 2.1): nothing of ours has such a name
      return undefined;
    }
  }
  return params;
}

function allow({ entries }: Place): { allow: string } {
  const allowed = methods.filter(
    (method) => entries.has(method) || method === "OPTIONS" || (method === "HEAD" && entries.has("GET")),
  );
  return { allow: allowed.join(", ") };
}

function wrongMethod(place: Place, method: string, example: ProblemExtras, shape: ErrorShape): Response {
  const headers = allow(place);
  const failure = problem("wrong-method", `${method} has no meaning here; there is ${headers.allow}.`);
  return problemResponse(failure, example, shape, headers);
}

function pathOf({ segments }: Place): string {
  return segments.join("/");
}

/** A command that works at a place, where one is declared. */
function exampleAt(home: Home, { entries }: Place, request: Request, params: Record<string, string>): ProblemExtras {
  const declared = [...entries.values()].map((entry) => entry.call).find(({ example }) => example);
  if (!declared) return {};
  const app = declared.by === "visitor" ? home.apps.bySlug(params.slug ?? "") : undefined;
  const call = app ? exampleFor(declared, needsOf(home, app)) : declared;
  return { example: commandFor(call, doorOf(request.headers).origin, params as InputOf<Call>) };
}

/** An answer without its body; a stream in it is let go of, since nobody will read it. */
async function headOf({ body, status, headers }: Response): Promise<Response> {
  await body?.cancel();
  return new Response(null, { status, headers });
}

function queryOf(request: Request): Record<string, string> {
  return Object.fromEntries(new URL(request.url).searchParams);
}

/** The body of a request as text. @throws {Refusal} `too-large` above so many bytes */
async function bodyText(request: Request, largest: number): Promise<string> {
  const tooLarge = (): never => refuse("too-large", `The body has more than ${largest} bytes.`);
  if (Number(request.headers.get("content-length") ?? 0) > largest) tooLarge();
  if (!request.body) return "";
  const utf8 = new TextDecoder();
  let size = 0;
  let text = "";
  for await (const chunk of request.body as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > largest) tooLarge();
    text += utf8.decode(chunk, { stream: true });
  }
  return text + utf8.decode();
}

/** What was parsed. @throws {Refusal} with the problem of what did not fit */
function valid<T>(parsed: Parsed<T>): T {
  if (parsed.ok) return parsed.value;
  throw new Refusal(parsed.problem satisfies Problem, parsed.param === undefined ? {} : { param: parsed.param });
}
