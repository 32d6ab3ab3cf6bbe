import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import type { Call } from "./call";
import { Stopped } from "./delivery";
import { faults } from "./faults/faults";
import { Plan, planFrom } from "./faults/plan";
import { readJson, sendJson } from "./json";
import { instant, type Pace } from "./pace";
import type { Model } from "./speech";

/** Where a secret is kept: the name of an environment variable. */
interface Secret {
  variable: string;
}

/** What a model can do beside text. */
type Ability = "thought" | "pictures" | "tools" | "json" | "vectors";

/** What a stand-in says of itself, for whoever wants to wire it. */
export interface About {
  name: string;
  /** The wire profile that fits it. */
  profile: string;
  /** How a caller shows who it is. */
  credential:
    | { kind: "none" }
    | { kind: "key"; secret: Secret }
    | {
        kind: "token";
        url: string;
        send: "json" | "form";
        body: Record<string, string>;
        id: Secret;
        secret: Secret;
        token: string;
        expires: string;
      };
  models: {
    name: string;
    window: number;
    price: { input: number; output: number; currency: string };
    can: Ability[];
  }[];
}

/** A simulated provider. */
export interface StandIn {
  about: About;
  /** Made-up keys that open it, by the variables that its credentials name. */
  samples: Record<string, string>;
  answer(request: IncomingMessage, response: ServerResponse, call: Call): Promise<void>;
  /** An error in the style of this API. */
  failure(status: number, words: string): object;
}

/** A call as it is kept for whoever wants to compare. */
interface Noted {
  model: string;
  messages: { role: string; content: string }[];
  text: string;
  said: string;
  /** Whether the caller closed the connection before the end. */
  left: boolean;
}

/** What can be steered of a running stand-in. */
interface State {
  pace?: Pace;
  /** Has a reply that is under way say the rest at once. */
  underWay: Set<AbortController>;
  plan: Plan;
  calls: Noted[];
}

/** The faults that can be planned, as they are offered. */
const offered = Object.entries(faults).map(([name, { says, needs }]) => ({ name, says, needs }));

const keptCalls = 200;

/**
 * The HTTP server of a stand-in. Beside its own API it has, under `/standin`: `GET about`, `GET samples`,
 * `PUT pace`, `GET`, `PUT` and `DELETE fault`, and `GET` and `DELETE calls`, the last 200 with what was said.
 */
export function serve(standIn: StandIn, pace?: Pace): Server {
  const state: State = { pace, underWay: new Set(), plan: new Plan(), calls: [] };
  return createServer((request, response) => {
    const control = /^\/standin\/(\w+)$/.exec(request.url ?? "")?.[1];
    const work = control ? steer(control, request, response, standIn, state) : take(request, response, standIn, state);
    work.catch(() => response.destroy());
  });
}

async function take(request: IncomingMessage, response: ServerResponse, standIn: StandIn, state: State): Promise<void> {
  const gone = new AbortController();
  const hurry = new AbortController();
  state.underWay.add(hurry);
  // faults are for calls that ask for a reply, and those send the most
  const fault = request.method === "GET" || /\/(?:token|up)$/.test(request.url ?? "") ? undefined : state.plan.next();
  let noted: Noted | undefined;
  response.on("close", () => {
    if (noted && !response.writableFinished) noted.left = true;
    state.underWay.delete(hurry);
    gone.abort();
  });
  if (fault?.refuse) {
    fault.refuse(response, fault.planned, standIn.failure);
    return;
  }
  if (fault?.late) await wait(fault.late(fault.planned), undefined, { signal: gone.signal });
  try {
    await standIn.answer(request, response, {
      fault,
      arrivedAt: performance.now(),
      pace: state.pace,
      hurried: hurry.signal,
      signal: gone.signal,
      begin(begun) {
        noted = { ...begun, said: "", left: false };
        state.calls.push(noted);
        if (state.calls.length > keptCalls) state.calls.shift();
      },
      said(text) {
        if (noted) noted.said += text;
      },
    });
  } catch (error) {
    if (!(error instanceof Stopped)) throw error;
    if (fault?.endsStopped) response.end();
  }
}

async function steer(
  control: string,
  request: IncomingMessage,
  response: ServerResponse,
  standIn: StandIn,
  state: State,
): Promise<void> {
  const call = `${request.method} ${control}`;
  if (call === "GET about") return sendJson(response, 200, standIn.about);
  if (call === "GET samples") return sendJson(response, 200, standIn.samples);
  if (call === "GET calls") return sendJson(response, 200, state.calls);
  if (call === "DELETE calls") {
    state.calls.length = 0;
    return sendJson(response, 200, []);
  }
  if (call === "GET fault") return sendJson(response, 200, { fault: null, ...state.plan.now, faults: offered });
  if (call === "DELETE fault") {
    state.plan.set(undefined);
    return sendJson(response, 200, { fault: null });
  }
  if (call === "PUT fault") {
    const plan = planFrom(await readJson(request));
    if (typeof plan === "string") return sendJson(response, 400, { error: { message: plan } });
    state.plan.set(plan);
    return sendJson(response, 200, plan);
  }
  if (call === "PUT pace") {
    const body = await readJson(request);
    state.pace = paceFrom(body);
    if ((body as { underWay?: boolean } | null)?.underWay) for (const hurry of state.underWay) hurry.abort();
    return sendJson(response, 200, { pace: state.pace ?? "of each model" });
  }
  sendJson(response, 404, {
    error: {
      message: "There is GET about, GET samples, GET and DELETE calls, PUT pace, and GET, PUT and DELETE fault.",
    },
  });
}

/** `{"pace": "instant"}`, with `"underWay": true` for what is being said, too; `{"firstMs": 0, "tokensPerSecond": 20}`, or anything else for each model's own. */
function paceFrom(body: unknown): Pace | undefined {
  const { pace, firstMs = 0, tokensPerSecond } = (body ?? {}) as Partial<Pace> & { pace?: string };
  if (pace === "instant") return instant;
  return typeof tokensPerSecond === "number" && tokensPerSecond > 0 ? { firstMs, tokensPerSecond } : undefined;
}

/** What `about` says of models. */
export function listed(
  models: Record<string, Pick<Model, "window" | "price" | "sees" | "thinks">>,
  others: readonly Ability[] = [],
): About["models"] {
  return Object.entries(models).map(([name, { window, price, sees, thinks }]) => ({
    name,
    window,
    price: { ...price, currency: "EUR" },
    can: [...(thinks ? ["thought" as const] : []), ...(sees ? ["pictures" as const] : []), ...others],
  }));
}
