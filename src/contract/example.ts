import type { Asked } from "@/core/revision/variables";
import type { Access } from "@/core/serving/access";
import type { Call } from "./call";

/** What a call of one app needs, beside what it is about. */
export interface Needs {
  callers: Access["callers"];
  /** The variables that its prompt leaves to calls. */
  asks: Asked[];
}

/** The place of a token in an example: no token is ever said back. */
export const tokenPlace = "Bearer YOUR_TOKEN";

/** A call with an example that works for one app: with values for what its prompt leaves to calls, and a token where callers need one. */
export function exampleFor<C extends Call>(call: C, { callers, asks }: Needs): C {
  const { example } = call;
  if (!example) return call;
  const given = asks.length > 0 ? { variables: samplesOf(asks) } : {};
  const body = takesVariables(example.body) ? { ...example.body, ...given } : example.body;
  const needsToken = callers !== "machine" && call.by === "visitor";
  const headers = needsToken ? { authorization: tokenPlace, ...example.headers } : example.headers;
  return { ...call, example: { ...(headers ? { headers } : {}), ...(body === undefined ? {} : { body }) } };
}

/** Values for the variables that a prompt leaves to calls, as its developer tries it, or as they are called. */
export function samplesOf(asks: readonly Asked[]): Record<string, string> {
  return Object.fromEntries(asks.map(({ name, sample }) => [name, sample]));
}

function takesVariables(body: unknown): body is object {
  return typeof body === "object" && body !== null && ("message" in body || "messages" in body);
}
