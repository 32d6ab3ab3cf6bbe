import type { IncomingMessage, ServerResponse } from "node:http";
import { choicesFrom, seedOf } from "../engine/random";
import { answer, type Said } from "../engine/reply";
import type { Fault } from "../faults/plan";
import { type Pace, paced } from "../pace";
import { type Call, readJson, type StandIn, sendJson } from "../standin";

interface Model {
  /** Tokens that request and reply may have together. */
  window: number;
  /** Euros per million tokens. */
  price: { input: number; output: number };
  pace: Pace;
  brief: boolean;
  thinks: boolean;
}

const models: Record<string, Model> = {
  "reed-swift": {
    window: 8192,
    price: { input: 0.4, output: 1.2 },
    pace: { firstMs: 160, tokensPerSecond: 90 },
    brief: true,
    thinks: false,
  },
  "reed-deep": {
    window: 16384,
    price: { input: 2.5, output: 10 },
    pace: { firstMs: 380, tokensPerSecond: 36 },
    brief: false,
    thinks: true,
  },
};

/** The made-up key that Reedbed accepts unless it is started with another. */
export const sampleKey = "reed-4f2a-sample";

/** Reedbed: the shape that most model servers share. */
export function reedbed(key = sampleKey): StandIn {
  return {
    about: {
      name: "Reedbed",
      profile: "chat-completions",
      keyVariable: "REEDBED_KEY",
      models: Object.entries(models).map(([name, { window, price }]) => ({
        name,
        window,
        price: { ...price, currency: "EUR" },
      })),
    },
    async answer(request, response, call) {
      if (request.headers.authorization !== `Bearer ${key}`)
        return refuse(response, 401, "invalid_api_key", "The key is missing or not known here.");
      const path = new URL(request.url ?? "/", "http://reedbed").pathname;
      if (request.method === "GET" && path === "/v1/models")
        return sendJson(response, 200, {
          data: Object.keys(models).map((id) => ({ id })),
        });
      if (request.method === "POST" && path === "/v1/chat/completions") return complete(request, response, call);
      refuse(response, 404, "not_found", `There is nothing at ${request.method} ${path}.`);
    },
  };
}

/** The members of a request that Reedbed reads. */
interface Asked {
  model: string;
  messages: { role: string; content: string }[];
  stream: boolean;
  usage: boolean;
  maxTokens: number | undefined;
  stop: string[];
  seed: number | undefined;
}

async function complete(request: IncomingMessage, response: ServerResponse, call: Call): Promise<void> {
  const asked = readAsked(await readJson(request));
  if (typeof asked === "string") return refuse(response, 400, "invalid_request", asked);
  const model = models[asked.model];
  if (!model)
    return refuse(
      response,
      404,
      "model_not_found",
      `There is no model ${asked.model}; there are ${Object.keys(models).join(" and ")}.`,
    );
  const input = asked.messages.reduce((sum, { content }) => sum + tokensOf(content).length + 3, 3);
  if (input + (asked.maxTokens ?? 1) > model.window)
    return refuse(
      response,
      400,
      "context_length_exceeded",
      `The window of ${asked.model} is ${model.window} tokens; ${input} came in and ${asked.maxTokens ?? 1} are kept for the reply.`,
    );

  const reply = replyTo(asked, model);
  call.begin({ model: asked.model, messages: asked.messages, text: reply.text.join("") });
  const usage = {
    prompt_tokens: input,
    completion_tokens: reply.thought.length + reply.text.length,
    total_tokens: input + reply.thought.length + reply.text.length,
    reasoning_tokens: reply.thought.length,
  };
  const pace = call.pace ?? model.pace;
  const shared: Reply = {
    ...reply,
    id: `reed-${seedOf(JSON.stringify(asked)).toString(36)}`,
    model: asked.model,
    usage,
  };
  if (asked.stream) await streamed(response, shared, asked.usage, pace, call);
  else await whole(response, shared, pace, call);
}

function readAsked(body: unknown): Asked | string {
  if (typeof body !== "object" || body === null) return "The body is not a JSON object.";
  const { model, messages, stream, stream_options, max_tokens, stop, seed, n } = body as Record<string, unknown>;
  if (typeof model !== "string") return "model is missing.";
  if (!Array.isArray(messages) || messages.length === 0) return "messages is missing or empty.";
  if (max_tokens !== undefined && (!Number.isInteger(max_tokens) || (max_tokens as number) < 1))
    return "max_tokens is a number from 1.";
  if (n !== undefined && n !== 1) return "This server gives one choice at a time.";
  let before = "";
  for (const [at, message] of messages.entries()) {
    if (typeof message?.content !== "string" || message.content === "") return `messages[${at}].content is empty.`;
    if (!["system", "user", "assistant"].includes(message.role))
      return `messages[${at}].role is one of system, user and assistant.`;
    if (message.role === "system" && at > 0) return `messages[${at}]: a system message stands first.`;
    if (message.role === before) return `messages[${at}]: two messages of the ${before} in a row.`;
    if (message.role === "assistant" && (before === "" || before === "system"))
      return `messages[${at}]: the user speaks first.`;
    before = message.role;
  }
  if (before === "system") return "messages has nothing to answer.";
  return {
    model,
    messages,
    stream: stream === true,
    usage: (stream_options as { include_usage?: boolean } | undefined)?.include_usage === true,
    maxTokens: max_tokens as number | undefined,
    stop: typeof stop === "string" ? [stop] : Array.isArray(stop) ? stop.map(String) : [],
    seed: typeof seed === "number" ? seed : undefined,
  };
}

interface Tokens {
  thought: string[];
  text: string[];
  finish: "stop" | "length";
}

interface Reply extends Tokens {
  id: string;
  model: string;
  usage: object;
}

const by = { system: "system", user: "visitor", assistant: "app" } as const;

/** The reply in tokens. A conversation that ends with the assistant's words is gone on from where they stop. */
function replyTo(asked: Asked, model: Model): Tokens {
  const goesOn = asked.messages.at(-1)?.role === "assistant";
  const begun = goesOn ? (asked.messages.at(-1)?.content ?? "") : "";
  const heard = goesOn ? asked.messages.slice(0, -1) : asked.messages;
  const said: Said[] = heard.map(({ role, content }) => ({ by: by[role as keyof typeof by], text: content }));
  const answered = answer(said, asked.seed ?? seedOf(JSON.stringify(heard)), model.brief);
  let text = answered.text;
  if (goesOn) text = text.startsWith(begun) ? text.slice(begun.length) : " That is all there is to say about it.";
  for (const word of asked.stop) if (word !== "" && text.includes(word)) text = text.slice(0, text.indexOf(word));
  const thought = model.thinks && !goesOn ? tokensOf(answered.thought) : [];
  const tokens = tokensOf(text || "…");
  const room = asked.maxTokens === undefined ? tokens.length : Math.max(asked.maxTokens - thought.length, 1);
  return { thought, text: tokens.slice(0, room), finish: tokens.length > room ? "length" : "stop" };
}

/** A text in Reedbed's tokens: words in parts of up to five letters with the space before them, other signs one by one. */
export function tokensOf(text: string): string[] {
  return text.match(/ ?\p{L}{1,5}|\p{L}{1,5}| ?\p{N}{1,2}|\s+|[^\p{L}\p{N}\s]/gu) ?? [];
}

async function streamed(
  response: ServerResponse,
  reply: Reply,
  wantsUsage: boolean,
  pace: Pace,
  call: Call,
): Promise<void> {
  response.writeHead(200, { "content-type": "text/event-stream; charset=utf-8", "cache-control": "no-store" });
  response.flushHeaders();
  const held: string[] = [];
  const write = (data: string) => {
    if (call.fault?.fault === "held-back") held.push(`data: ${data}\n\n`);
    else response.write(`data: ${data}\n\n`);
  };
  const chunk = (delta: object, finish: string | null = null) =>
    JSON.stringify({
      id: reply.id,

      model: reply.model,
      choices: [{ index: 0, delta, finish_reason: finish }],
    });
  write(chunk({ role: "assistant", content: "" }));
  const thoughts = reply.thought.length;
  const parts = call.fault?.fault === "empty" ? [] : [...reply.thought, ...reply.text];
  await paced(parts, pace, choicesFrom(parts.length).next, call.signal, (part, at) => {
    misbehave(call.fault, at, response, write);
    write(chunk(at < thoughts ? { reasoning: part } : { content: part }));
    if (at >= thoughts) call.said(part);
  });
  if (call.fault?.fault !== "no-end") {
    write(chunk({}, call.fault?.fault === "empty" ? "stop" : reply.finish));
    if (wantsUsage) write(JSON.stringify({ id: reply.id, choices: [], usage: reply.usage }));
    write("[DONE]");
  }
  response.end(held.join(""));
}

async function whole(response: ServerResponse, reply: Reply, pace: Pace, call: Call): Promise<void> {
  const tokens = call.fault?.fault === "empty" ? [] : [...reply.thought, ...reply.text];
  await paced(tokens, pace, choicesFrom(tokens.length).next, call.signal, () => {});
  const content = call.fault?.fault === "empty" ? null : reply.text.join("");
  call.said(content ?? "");
  const message = {
    role: "assistant",
    content,
    ...(reply.thought.length > 0 ? { reasoning: reply.thought.join("") } : {}),
  };
  sendJson(response, 200, {
    id: reply.id,

    model: reply.model,
    choices: [{ index: 0, message, finish_reason: reply.finish }],
    usage: reply.usage,
  });
}

/** Does to the stream what the fault plan asks for at this event. */
function misbehave(
  fault: Fault | undefined,
  at: number,
  response: ServerResponse,
  write: (data: string) => void,
): void {
  if (!fault || !("after" in fault) || at !== fault.after) return;
  if (fault.fault === "broken-json") write('{"choices": [{"delta": {"conte');
  if (fault.fault === "dropped") response.destroy();
  throw new Stopped(fault.fault);
}

/** Thrown where a fault plan ends a stream. */
class Stopped extends Error {}

function refuse(response: ServerResponse, status: number, code: string, message: string): void {
  sendJson(response, status, { error: { message, type: "request_error", code } });
}
