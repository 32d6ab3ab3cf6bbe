import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { readJson, sendJson } from "../json";
import { type Asked, type Model, numberIn, type Speech, speak, stopWordsIn } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "reed-swift": {
    window: 8192,
    price: { input: 0.4, output: 1.2 },
    pace: { firstMs: 160, tokensPerSecond: 90 },
    isBrief: true,
    thinks: false,
    isCareless: true,
  },
  "reed-deep": {
    window: 16384,
    price: { input: 2.5, output: 10 },
    pace: { firstMs: 380, tokensPerSecond: 36 },
    isBrief: false,
    thinks: true,
    isCareless: false,
  },
};

/** The made-up key that Reedbed accepts unless it is started with another. */
export const sampleKey = "reed-4f2a-sample";

const callsAMinute = 600;

/** Reedbed: the shape that most model servers share. */
export function reedbed(key = sampleKey): StandIn {
  const minute = { began: 0, calls: 0 };
  return {
    about: {
      name: "Reedbed",
      profile: "chat-completions",
      credential: { kind: "key", secret: { variable: "REEDBED_KEY" } },
      models: listed(models),
    },
    samples: { REEDBED_KEY: key },
    failure: (status, message) => ({ error: { message, type: "request_error", code: `planned_${status}` } }),
    async answer(request, response, call) {
      if (request.headers.authorization !== `Bearer ${key}`)
        return refuse(response, 401, "invalid_api_key", "The key is missing or not known here.");
      const path = new URL(request.url ?? "/", "http://reedbed").pathname;
      if (request.method === "GET" && path === "/v1/models")
        return sendJson(response, 200, {
          data: Object.keys(models).map((id) => ({ id })),
        });
      if (request.method === "POST" && path === "/v1/chat/completions") {
        tellLimit(response, minute);
        return complete(request, response, call);
      }
      refuse(response, 404, "not_found", `There is nothing at ${request.method} ${path}.`);
    },
  };
}

/** Says how many calls are left in this minute; it only counts, and refuses none. */
function tellLimit(response: ServerResponse, minute: { began: number; calls: number }): void {
  const now = Date.now();
  if (now - minute.began >= 60_000) Object.assign(minute, { began: now, calls: 0 });
  minute.calls += 1;
  response.setHeader("x-ratelimit-limit", callsAMinute);
  response.setHeader("x-ratelimit-remaining", Math.max(callsAMinute - minute.calls, 0));
  response.setHeader("x-ratelimit-reset", `${Math.ceil((minute.began + 60_000 - now) / 1000)}s`);
}

/** The members of a request that Reedbed reads. */
interface Body extends Asked {
  model: string;
  messages: { role: string; content: string }[];
  stream: boolean;
  usage: boolean;
  takes: number;
}

async function complete(request: IncomingMessage, response: ServerResponse, call: Call): Promise<void> {
  const asked = bodyFrom(await readJson(request));
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
  if (input + (asked.maxOutput ?? 1) > model.window)
    return refuse(
      response,
      400,
      "context_length_exceeded",
      `The window of ${asked.model} is ${model.window} tokens; ${input} came in and ${asked.maxOutput ?? 1} are kept for the reply.`,
    );
  const takes = Array.from({ length: asked.takes }, (_, take) => speak(asked, model, tokensOf, take));
  const first = takes[0] as Speech;
  call.begin({ model: asked.model, messages: asked.messages, text: first.text.join("") });
  const reply = { model: asked.model, usage: usageOf(input, takes, call) };
  const pace = call.pace ?? model.pace;
  if (asked.stream) await streamed(response, call, pace, reply, takes, asked.usage);
  else await whole(response, call, pace, reply, takes);
}

const roles = { system: "system", user: "visitor", assistant: "app" } as const;

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "The body is not a JSON object.";
  const {
    model,
    messages,
    stream,
    stream_options,
    max_tokens,
    stop,
    seed,
    n = 1,
    ...rest
  } = body as Record<string, unknown>;
  if (typeof model !== "string") return "model is missing.";
  if (!Array.isArray(messages) || messages.length === 0) return "messages is missing or empty.";
  if (max_tokens !== undefined && (!Number.isInteger(max_tokens) || (max_tokens as number) < 1))
    return "max_tokens is a number from 1.";
  if (!Number.isInteger(n) || (n as number) < 1 || (n as number) > 10) return "n is a number from 1 to 10.";
  let before = "";
  for (const [at, message] of messages.entries()) {
    if (typeof message?.content !== "string" || message.content === "") return `messages[${at}].content is empty.`;
    if (!Object.hasOwn(roles, message.role)) return `messages[${at}].role is one of system, user and assistant.`;
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
    said: messages.map(({ role, content }) => ({ by: roles[role as keyof typeof roles], text: content })),
    stream: stream === true,
    usage: (stream_options as { include_usage?: boolean } | undefined)?.include_usage === true,
    maxOutput: max_tokens as number | undefined,
    stop: stopWordsIn(stop),
    seed: numberIn(seed),
    takes: n as number,
    freedom: { temperature: numberIn(rest.temperature), topP: numberIn(rest.top_p), topK: numberIn(rest.top_k) },
  };
}

/** A text in Reedbed's tokens: words in parts of up to five letters with the space before them, other signs one by one. */
export function tokensOf(text: string): string[] {
  return text.match(/ ?\p{L}{1,5}|\p{L}{1,5}| ?\p{N}{1,2}|\s+|[^\p{L}\p{N}\s]/gu) ?? [];
}

function usageOf(input: number, takes: Speech[], { fault }: Call): object | undefined {
  const thought = takes.reduce((sum, take) => sum + take.thought.length, 0);
  const output = takes.reduce((sum, take) => sum + take.text.length, thought);
  if (fault?.usage === "none") return undefined;
  if (fault?.usage === "wrong") return { prompt_tokens: -1, completion_tokens: "many" };
  return {
    prompt_tokens: input,
    completion_tokens: output,
    total_tokens: input + output,
    reasoning_tokens: thought,
  };
}

const finishes = { itself: "stop", limit: "length", "stop word": "stop" } as const;

interface Reply {
  model: string;
  usage: object | undefined;
}

async function streamed(
  response: ServerResponse,
  call: Call,
  pace: Parameters<typeof deliver>[2],
  { model, usage }: Reply,
  takes: Speech[],
  wantsUsage: boolean,
): Promise<void> {
  const first = takes[0] as Speech;
  const event = (body: object) => `data: ${JSON.stringify({ model, ...body })}\n\n`;
  const choice = (index: number, delta: object, finish: string | null = null) => ({
    choices: [{ index, delta, finish_reason: finish }],
  });
  const others = takes.slice(1).map(({ text }) => [...text]);
  const isEmpty = call.fault?.isSilent ?? false;
  await deliver(response, call, pace, {
    contentType: "text/event-stream; charset=utf-8",
    opening: takes.map((_, at) => event(choice(at, { role: "assistant", content: "" }))),
    thought: first.thought,
    text: first.text,
    // the takes come mixed: each event of the first brings one of every other along
    event: (token, isThought) =>
      [
        event(choice(0, isThought ? { reasoning: token } : { content: token })),
        ...others.map((rest, at) => (rest.length > 0 ? event(choice(at + 1, { content: rest.shift() })) : "")),
      ].join(""),
    closing: () => [
      ...others.map((rest, at) => (rest.length > 0 ? event(choice(at + 1, { content: rest.join("") })) : "")),
      ...takes.map(({ ended }, at) => event(choice(at, {}, isEmpty ? "stop" : finishes[ended]))),
      ...(wantsUsage && usage ? [event({ choices: [], usage })] : []),
      "data: [DONE]\n\n",
    ],
    ends: takes.length + (wantsUsage && usage ? 2 : 1),
    broken: 'data: {"choices": [{"delta": {"conte\n\n',
  });
}

async function whole(
  response: ServerResponse,
  call: Call,
  pace: Parameters<typeof deliver>[2],
  { model, usage }: Reply,
  takes: Speech[],
): Promise<void> {
  const isEmpty = call.fault?.isSilent ?? false;
  const first = takes[0] as Speech;
  const choices = takes.map(({ text, thought, ended }, index) => ({
    index,
    message: {
      role: "assistant",
      content: isEmpty ? null : text.join(""),
      ...(thought.length > 0 ? { reasoning: thought.join("") } : {}),
    },
    finish_reason: finishes[ended],
  }));
  const tokens = [...first.thought, ...first.text];
  await deliverWhole(response, call, pace, tokens, first.text.join(""), {
    model,
    choices,
    ...(usage ? { usage } : {}),
  });
}

function refuse(response: ServerResponse, status: number, code: string, message: string): void {
  sendJson(response, status, { error: { message, type: "request_error", code } });
}
