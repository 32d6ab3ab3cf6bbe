import type { z } from "zod";
import { type Parsed, parse } from "@/contract/parse";
import { problem } from "@/core/problem/problem";
import { isDeeperThan } from "@/core/wire/json";
import { boot } from "../boot";
import { storageProblem } from "../database/storage";
import { isRefusal, Refusal, refuse } from "../refusal";
import { problemResponse } from "./problem-response";

const methods = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"] as const;
type Method = (typeof methods)[number];

/** Answers one method at one address; `params` are the variable parts of the address. */
export type Handle<P> = (request: Request, params: P) => Promise<Response> | Response;

/** All methods of a route, as Next wants them. */
type Route<P> = Record<Method, (request: Request, context: { params: Promise<P> }) => Promise<Response>>;

/**
 * A route from the methods that it has. What is thrown becomes a problem document; any other
 * method is answered with 405 and `Allow`.
 * @param example a command that works, for a call with a wrong method or body
 */
export function route<P = object>(
  handles: Partial<Record<Method, Handle<P>>>,
  example?: (request: Request, params: P) => string,
): Route<P> {
  const allowed = methods.filter(
    (method) => method in handles || method === "OPTIONS" || (method === "HEAD" && "GET" in handles),
  );
  const allow = { allow: allowed.join(", ") };
  const answerTo = (method: Method) => async (request: Request, context: { params: Promise<P> }) => {
    const params = await context.params;
    try {
      const handle = handles[method];
      if (handle) return await handle(request, params);
      if (method === "HEAD" && handles.GET) return await headOf(await handles.GET(request, params));
      if (method === "OPTIONS") return new Response(null, { status: 204, headers: allow });
      const failure = problem("wrong-method", `${method} has no meaning here; there is ${allow.allow}.`);
      return problemResponse(failure, example ? { example: example(request, params) } : {}, allow);
    } catch (error) {
      if (!isRefusal(error)) {
        boot().log.error({ error, method, path: new URL(request.url).pathname }, "a call could not be answered");
        const failure = storageProblem(error);
        return problemResponse(
          failure ?? problem("internal", "The call could not be answered; the terminal says why."),
        );
      }
      const isMalformed = error.problem.kind === "bad-request" || error.problem.kind === "not-there-yet";
      const extras = isMalformed && example ? { example: example(request, params), ...error.extras } : error.extras;
      return problemResponse(error.problem, extras);
    }
  };
  return Object.fromEntries(methods.map((method) => [method, answerTo(method)])) as Route<P>;
}

/** An answer without its body; a stream in it is let go of, since nobody will read it. */
async function headOf({ body, status, headers }: Response): Promise<Response> {
  await body?.cancel();
  return new Response(null, { status, headers });
}

/** Levels that the JSON of a body may be nested. */
const deepestBody = 100;

/** Bytes that a body may have. */
export const largestBody = 1024 * 1024;

/** The body of a request as text. @throws {Refusal} `too-large` above 1 MiB */
export async function bodyText(request: Request): Promise<string> {
  const tooLarge = (): never => refuse("too-large", `The body has more than ${largestBody} bytes.`);
  if (Number(request.headers.get("content-length") ?? 0) > largestBody) tooLarge();
  if (!request.body) return "";
  const utf8 = new TextDecoder();
  let size = 0;
  let text = "";
  for await (const chunk of request.body as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > largestBody) tooLarge();
    text += utf8.decode(chunk, { stream: true });
  }
  return text + utf8.decode();
}

/** JSON from a body. @throws {Refusal} `bad-request` where it is none, or is nested too deep */
export function jsonFrom(text: string): unknown {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    refuse("bad-request", text === "" ? "The body is empty." : `The body is not JSON: ${(error as Error).message}.`, {
      advice: "Send a JSON object.",
    });
  }
  if (isDeeperThan(value, deepestBody))
    refuse("bad-request", `The body is nested more than ${deepestBody} levels deep.`);
  return value;
}

/** What a body holds, by its schema. @throws {Refusal} */
export async function bodyOf<S extends z.ZodType>(request: Request, schema: S): Promise<z.output<S>> {
  return valid(parse(schema, jsonFrom(await bodyText(request))));
}

/** What was parsed. @throws {Refusal} with the problem of what did not fit */
export function valid<T>(parsed: Parsed<T>): T {
  if (parsed.ok) return parsed.value;
  throw new Refusal(parsed.problem);
}
