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
import type { HasApps } from "../apps/app-store";
import { storageProblem } from "../database/storage";
import { callHeader, callIdOf } from "../entrance/call-id";
import { type Caller, type CallerNeeds, callerOf } from "../entrance/caller";
import { doorOf } from "../entrance/door";
import type { HasLimits } from "../entrance/limits";
import { rateHeaders } from "../entrance/rate";
import type { HasLog } from "../ground/log";
import { isRefusal, Refusal, refuse } from "../ground/refusal";
import { errorsAt, problemResponse } from "./problem-response";
import { noteRefused, refuseForeign, type SharingNeeds, sharedWith } from "./sharing";

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
export function written(text: string, type = "application/json"): Response {
  return new Response(text, { headers: { ...jsonHeaders, "content-type": type } });
}

const jsonHeaders = { "content-type": "application/json", "cache-control": "no-store" };

type Answering<T> = T | Answered<T> | Response;

/**
 * Answers a call, with what it needs of the process. A refusal that is thrown becomes a problem, in the shape that the
 * call has for its errors.
 */
export type Handle<C extends Call, H> = (
  home: H,
  input: Served<C>,
) => Answering<GivenOf<C>> | Promise<Answering<GivenOf<C>>>;

/** What answers each call of a group of calls. */
export type Handles<T, H> = { [K in keyof T]: T[K] extends Call ? Handle<T[K], H> : Handles<T[K], H> };

/** What of the process is used here, beside what answers calls. */
type ServeNeeds = CallerNeeds & SharingNeeds & HasLimits & HasLog;

const methods = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"] as const;
type Route = Record<(typeof methods)[number], (request: Request) => Promise<Response>>;

/** A call with what answers it; its types were checked where the two were put together. */
interface Entry {
  call: Call;
  handle: (home: unknown, input: Record<string, unknown>) => unknown;
}

/** The calls at one path, by method. */
interface Place {
  segments: string[];
  entries: Map<string, Entry>;
}

/** A call as it came: what is at its path, and what answers it there. */
interface Came {
  request: Request;
  path: string;
  place?: Place;
  params: Record<string, string>;
  /** None where nothing is at its path, or nothing of its method. */
  entry?: Entry;
  /** The app that it is a call of, if it is one. */
  app?: string;
  /** The shape of its errors. */
  shape: ErrorShape;
}

/** What is told along with an answer: headers for its origin, and who called, once that is known. */
interface Along {
  sharing: Record<string, string>;
  caller?: Caller;
}

/**
 * A route, as Next wants it, that answers all calls of a contract: it parses what comes in, and what goes
 * out. Another method is answered with 405 and `Allow`, another address with 404.
 */
export function serve<T extends object, H extends ServeNeeds>(boot: () => H, calls: T, handles: Handles<T, H>): Route {
  const places = placesOf(calls, handles as object);
  const answerTo = async (request: Request): Promise<Response> => {
    const home = boot();
    const came = whichCall(places, request);
    const along: Along = { sharing: {} };
    try {
      along.sharing = sharingOf(home, came);
      const response = answeredByItself(home, came);
      if (response) return await told(home, came, along, response);
      along.caller = await whoCalls(home, came);
      const input = await parsed(came, along.caller);
      return await told(home, came, along, await answered(home, came, input));
    } catch (error) {
      return told(home, came, along, failed(home, came, error));
    }
  };
  return Object.fromEntries(methods.map((method) => [method, answerTo])) as Route;
}

/** What is at the path of a request, and what answers its method there. */
function whichCall(places: Place[], request: Request): Came {
  const { pathname: path } = new URL(request.url);
  const { place, params } = find(places, path) ?? { place: undefined, params: {} };
  const { method } = request;
  const entry = place?.entries.get(method) ?? (method === "HEAD" ? place?.entries.get("GET") : undefined);
  const app = place && pathOf(place).startsWith("/api/apps/{slug}/") ? (params.slug ?? "") : undefined;
  return { request, path, place, params, entry, app, shape: entry?.call.errors ?? errorsAt(path) };
}

/** The headers by which pages of the origin that calls may read the answer. */
function sharingOf(home: HasApps, { app, place, request }: Came): Record<string, string> {
  return app === undefined || !place ? {} : sharedWith(home, app, allow(place).allow, request);
}

/** The answer of a call that nothing of the contract answers. @throws {Refusal} where there is nothing at its path */
function answeredByItself(home: HasApps, came: Came): Response | undefined {
  const { request, path, place, entry, app, shape } = came;
  if (!place) refuse("not-found", `There is nothing at ${path}.`);
  if (request.method === "OPTIONS") {
    if (app !== undefined) refuseForeign(home, app, request);
    return new Response(null, { status: 204, headers: allow(place) });
  }
  return entry ? undefined : wrongMethod(place, request.method, exampleAt(home, came), shape);
}

/** Who makes a call that is a visitor's. @throws {Refusal} where nobody does who may */
async function whoCalls(home: CallerNeeds & HasApps, { entry, params, request }: Came): Promise<Caller | undefined> {
  if (entry?.call.by !== "visitor") return undefined;
  return callerOf(home, appAt(home, params.slug ?? ""), entry.call, request);
}

/** What came with a call, by what is declared of it. @throws {Refusal} over what does not fit */
async function parsed({ entry, params, request }: Came, caller: Caller | undefined): Promise<Record<string, unknown>> {
  const input: Record<string, unknown> = { ...params, request };
  if (caller) input.caller = caller;
  const { query, body } = entry?.call ?? {};
  if (query) Object.assign(input, valid(parse(query, queryOf(request))));
  if (body) {
    const text = await bodyText(request, body.largest);
    Object.assign(input, { text, body: valid(body.parse(text)) });
  }
  return input;
}

/** What a call's handle gives, parsed by the schema that is declared for its status. */
async function answered(home: unknown, { entry }: Came, input: Record<string, unknown>): Promise<Response> {
  const { call, handle } = entry as Entry;
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

/** The problem that a call ended with, in the shape that it has for its errors; a refused one is noted for Serve. */
function failed(home: SharingNeeds & HasApps, came: Came, error: unknown): Response {
  const { request, path, place, app, shape } = came;
  if (!isRefusal(error)) {
    home.log.error({ error, method: request.method, path }, "a call could not be answered");
    const failure =
      storageProblem(error) ?? problem("internal", "The call could not be answered; the terminal says why.");
    return problemResponse(failure, {}, shape);
  }
  const { kind } = error.problem;
  if (app !== undefined && place && !error.isOfReply)
    noteRefused(home, app, { path: pathOf(place) }, request, error.problem);
  const example = kind === "bad-request" ? exampleAt(home, came) : {};
  const asking: Record<string, string> = kind === "unknown-caller" ? { "www-authenticate": "Bearer" } : {};
  return problemResponse(error.problem, { ...example, ...error.extras }, shape, asking);
}

/** The answer with what is told along: to pages of other origins, and to callers of an app. */
async function told(home: HasLimits, { request, entry }: Came, along: Along, response: Response): Promise<Response> {
  const { sharing, caller } = along;
  const rate = caller ? rateHeaders(home, caller, Date.now()) : {};
  const own: Record<string, string> = entry?.call.by === "visitor" ? { [callHeader]: callIdOf(request), ...rate } : {};
  for (const [name, value] of Object.entries({ ...sharing, ...own })) response.headers.set(name, value);
  return request.method === "HEAD" ? headOf(response) : response;
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

/** A command that works at the place of a call, where one is declared. */
function exampleAt(home: HasApps, { place, params, request }: Came): ProblemExtras {
  const declared = [...(place?.entries.values() ?? [])].map((entry) => entry.call).find(({ example }) => example);
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
  const utf8 = new TextDecoder();
  let text = "";
  for await (const chunk of bodyParts(request, largest)) text += utf8.decode(chunk, { stream: true });
  return text + utf8.decode();
}

/** The body of a request as its bytes. @throws {Refusal} `too-large` above so many */
export async function bodyBytes(request: Request, largest: number): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const chunk of bodyParts(request, largest)) parts.push(chunk);
  return Buffer.concat(parts);
}

async function* bodyParts(request: Request, largest: number): AsyncGenerator<Uint8Array> {
  const tooLarge = (): never => refuse("too-large", `The body has more than ${largest} bytes.`);
  if (Number(request.headers.get("content-length") ?? 0) > largest) tooLarge();
  let size = 0;
  for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > largest) tooLarge();
    yield chunk;
  }
}

/** What was parsed. @throws {Refusal} with the problem of what did not fit */
function valid<T>(parsed: Parsed<T>): T {
  if (parsed.ok) return parsed.value;
  throw new Refusal(parsed.problem satisfies Problem, parsed.param === undefined ? {} : { param: parsed.param });
}
