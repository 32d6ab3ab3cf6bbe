import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import { type Fault, Faults, planFrom } from "./faults/plan";
import { instant, type Pace } from "./pace";

/** What a stand-in says of itself, for whoever wants to wire it. */
export interface About {
  name: string;
  /** The wire profile that fits it. */
  profile: string;
  /** The environment variable that its key is usually kept in. */
  keyVariable: string;
  models: { name: string; window: number; price: { input: number; output: number; currency: string } }[];
}

/** A simulated provider. */
export interface StandIn {
  about: About;
  answer(request: IncomingMessage, response: ServerResponse, call: Call): Promise<void>;
}

/** One call as a stand-in sees it. */
export interface Call {
  fault: Fault | undefined;
  /** Set when all models are to keep one pace; else each keeps its own. */
  pace: Pace | undefined;
  /** Aborted when the caller is gone. */
  signal: AbortSignal;
  /** Notes what came in, and the whole text that is going to be said. */
  begin(noted: { model: string; messages: { role: string; content: string }[]; text: string }): void;
  /** Notes text that was written out. */
  said(text: string): void;
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

const keptCalls = 200;
const longestBody = 8 * 1024 * 1024;

/**
 * The HTTP server of a stand-in. Beside its own API it has, under `/standin`: `GET about`,
 * `PUT pace`, `PUT` and `DELETE fault`, and `GET calls`, the last calls with what was said.
 */
export function serve(standIn: StandIn, pace?: Pace): Server {
  const state = { pace, faults: new Faults(), calls: [] as Noted[] };
  return createServer((request, response) => {
    const control = /^\/standin\/(\w+)$/.exec(request.url ?? "")?.[1];
    const work = control ? steer(control, request, response, standIn, state) : take(request, response, standIn, state);
    work.catch(() => response.destroy());
  });
}

async function take(
  request: IncomingMessage,
  response: ServerResponse,
  standIn: StandIn,
  state: { pace?: Pace; faults: Faults; calls: Noted[] },
): Promise<void> {
  const gone = new AbortController();
  const fault = request.method === "GET" ? undefined : state.faults.next();
  let noted: Noted | undefined;
  response.on("close", () => {
    if (noted && !response.writableFinished) noted.left = true;
    gone.abort();
  });
  if (fault?.fault === "status") {
    if (fault.retryAfter !== undefined) response.setHeader("retry-after", fault.retryAfter);
    return sendJson(response, fault.status, {
      error: { message: `A fault plan answers ${fault.status}.`, code: "planned" },
    });
  }
  if (fault?.fault === "slow-start") await wait(fault.ms, undefined, { signal: gone.signal });
  try {
    await standIn.answer(request, response, {
      fault,
      pace: state.pace,
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
    if (fault?.fault === "stalled") return;
    if (fault?.fault === "broken-json") response.end();
    else throw error;
  }
}

async function steer(
  control: string,
  request: IncomingMessage,
  response: ServerResponse,
  standIn: StandIn,
  state: { pace?: Pace; faults: Faults; calls: Noted[] },
): Promise<void> {
  const call = `${request.method} ${control}`;
  if (call === "GET about") return sendJson(response, 200, standIn.about);
  if (call === "GET calls") return sendJson(response, 200, state.calls);
  if (call === "DELETE fault") {
    state.faults.set(undefined);
    return sendJson(response, 200, { fault: null });
  }
  if (call === "PUT fault") {
    const plan = planFrom(await readJson(request));
    if (typeof plan === "string") return sendJson(response, 400, { error: { message: plan } });
    state.faults.set(plan);
    return sendJson(response, 200, plan);
  }
  if (call === "PUT pace") {
    state.pace = paceFrom(await readJson(request));
    return sendJson(response, 200, { pace: state.pace ?? "of each model" });
  }
  sendJson(response, 404, {
    error: { message: "There is GET about, GET calls, PUT pace, PUT fault and DELETE fault." },
  });
}

/** `{"pace": "instant"}`, `{"firstMs": 0, "tokensPerSecond": 20}`, or anything else for each model's own. */
function paceFrom(body: unknown): Pace | undefined {
  const { pace, firstMs = 0, tokensPerSecond } = (body ?? {}) as Partial<Pace> & { pace?: string };
  if (pace === "instant") return instant;
  return typeof tokensPerSecond === "number" && tokensPerSecond > 0 ? { firstMs, tokensPerSecond } : undefined;
}

/** The body of a request as JSON; undefined when it is none. */
export async function readJson(request: IncomingMessage): Promise<unknown> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of request) {
    size += part.length;
    if (size > longestBody) return undefined;
    parts.push(part);
  }
  try {
    return JSON.parse(Buffer.concat(parts).toString("utf8"));
  } catch {
    return undefined;
  }
}

/** Answers with JSON. */
export function sendJson(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { "content-type": "application/json" });
  response.end(JSON.stringify(body));
}
