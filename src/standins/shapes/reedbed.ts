import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { type Picture, pictureIn } from "../engine/pictures";
import type { Said } from "../engine/scene";
import { type Call as Asking, argumentsOf, type Called, type Offered } from "../engine/tools";
import { vectorOf } from "../engine/vectors";
import { readJson, sendJson } from "../json";
import {
  type Asked,
  asPlanned,
  type CallFragment,
  fragmentsOf,
  type Model,
  numberIn,
  type Speech,
  speak,
  stopWordsIn,
  tokensOfCalls,
} from "../speech";
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
    sees: true,
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
      models: [...listed(models, ["tools", "json"]), ...vectorModels],
    },
    samples: { REEDBED_KEY: key },
    failure: (status, message) => ({ error: { message, type: "request_error", code: `planned_${status}` } }),
    async answer(request, response, call) {
      if (request.headers.authorization !== `Bearer ${key}`)
        return refuse(response, 401, "invalid_api_key", "The key is missing or not known here.");
      const path = new URL(request.url ?? "/", "http://reedbed").pathname;
      if (request.method === "GET" && path === "/v1/models")
        return sendJson(response, 200, {
          data: [...Object.keys(models), ...Object.keys(embedders)].map((id) => ({ id })),
        });
      if (request.method === "POST" && path === "/v1/chat/completions") {
        tellLimit(response, minute);
        return complete(request, response, call);
      }
      if (request.method === "POST" && path === "/v1/embeddings") return embed(request, response);
      refuse(response, 404, "not_found", `There is nothing at ${request.method} ${path}.`);
    },
  };
}

/** Models that make vectors, and the tokens that a text may have. */
const embedders: Record<string, number> = { "reed-embed": 2_048 };
const vectorModels = Object.entries(embedders).map(([name, window]) => ({
  name,
  window,
  price: { input: 0.02, output: 0, currency: "EUR" },
  can: ["vectors" as const],
}));
/** Texts that one call may have. */
const mostTexts = 256;

/** Vectors of texts, many in one call. */
async function embed(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const { model, input } = ((await readJson(request)) ?? {}) as Record<string, unknown>;
  const most = embedders[String(model)];
  if (most === undefined)
    return refuse(response, 404, "model_not_found", `${String(model)} makes no vectors; reed-embed does.`);
  const texts = typeof input === "string" ? [input] : input;
  if (!Array.isArray(texts) || texts.length === 0 || !texts.every((text) => typeof text === "string" && text !== ""))
    return refuse(response, 400, "invalid_request", "input has to be a text, or a list of texts that are not empty.");
  if (texts.length > mostTexts)
    return refuse(response, 400, "invalid_request", `input may have ${mostTexts} texts; ${texts.length} came.`);
  const counts = texts.map((text) => tokensOf(text).length);
  const tooLong = counts.findIndex((count) => count > most);
  if (tooLong >= 0)
    return refuse(
      response,
      400,
      "context_length_exceeded",
      `Text ${tooLong} has ${counts[tooLong]} tokens; ${most} is the most.`,
    );
  const tokens = counts.reduce((sum, count) => sum + count, 0);
  sendJson(response, 200, {
    model,
    data: texts.map((text, index) => ({ index, embedding: vectorOf(text) })),
    usage: { prompt_tokens: tokens, total_tokens: tokens },
  });
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
  /** Tokens of what came in. */
  input: number;
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
  if (asked.pictures?.length && !model.sees)
    return refuse(response, 400, "no_pictures", `${asked.model} sees no pictures; reed-deep does.`);
  const { input } = asked;
  if (input + (asked.maxOutput ?? 1) > model.window)
    return refuse(
      response,
      400,
      "context_length_exceeded",
      `The window of ${asked.model} is ${model.window} tokens; ${input} came in and ${asked.maxOutput ?? 1} are kept for the reply.`,
    );
  const takes = Array.from({ length: asked.takes }, (_, take) => speak(asked, asPlanned(model, call), tokensOf, take));
  const first = takes[0] as Speech;
  call.begin({ model: asked.model, messages: asked.messages, text: first.text.join("") });
  const reply = { model: versions[asked.model] ?? asked.model, usage: usageOf(input, takes, call), input };
  const pace = call.pace ?? model.pace;
  if (asked.stream) await streamed(response, call, pace, reply, takes, asked.usage);
  else await whole(response, call, pace, reply, takes);
}

const roles = { system: "system", user: "visitor", assistant: "app" } as const;

/** A message as it comes, before anything is known of it. */
type Message = Record<string, unknown> & { role?: unknown; content?: unknown };

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
    tools,
    tool_choice = "auto",
    response_format,
    ...rest
  } = body as Record<string, unknown>;
  if (typeof model !== "string") return "model is missing.";
  if (!Array.isArray(messages) || messages.length === 0) return "messages is missing or empty.";
  if (max_tokens !== undefined && (!Number.isInteger(max_tokens) || (max_tokens as number) < 1))
    return "max_tokens is a number from 1.";
  if (!Number.isInteger(n) || (n as number) < 1 || (n as number) > 10) return "n is a number from 1 to 10.";
  const offered = toolsIn(tools);
  if (typeof offered === "string") return offered;
  const mustCall = chosenIn(tool_choice, offered);
  if (typeof mustCall === "string") return mustCall;
  const read = new Reading();
  for (const [at, message] of messages.entries()) {
    const wrong = read.take(message as Message, `messages[${at}]`, at);
    if (wrong !== undefined) return wrong;
  }
  const wrong = read.end();
  if (wrong !== undefined) return wrong;
  return {
    model,
    messages: read.noted,
    said: read.said,
    made: read.made,
    endsWithTools: read.endsWithTools,
    pictures: read.pictures,
    offered: tool_choice === "none" ? [] : offered,
    mustCall: mustCall.names,
    schema: schemaOf(response_format),
    input: read.input + (offered.length > 0 ? tokensOf(JSON.stringify(tools)).length + 5 : 0),
    stream: stream === true,
    usage: (stream_options as { include_usage?: boolean } | undefined)?.include_usage === true,
    maxOutput: max_tokens as number | undefined,
    stop: stopWordsIn(stop),
    seed: numberIn(seed),
    takes: n as number,
    freedom: { temperature: numberIn(rest.temperature), topP: numberIn(rest.top_p), topK: numberIn(rest.top_k) },
  };
}

/** The tools that are offered; a text says what is wrong with them. */
function toolsIn(tools: unknown): Offered[] | string {
  if (tools === undefined || tools === null) return [];
  if (!Array.isArray(tools) || tools.length === 0) return "tools is a list of functions, or is left out.";
  const offered: Offered[] = [];
  for (const [at, tool] of tools.entries()) {
    const { name, description, parameters } = (tool as { function?: Record<string, unknown> })?.function ?? {};
    if (typeof name !== "string" || !/^[\w-]{1,64}$/.test(name))
      return `tools[${at}].function.name is missing or no name.`;
    offered.push({ name, description: String(description ?? ""), parameters });
  }
  return offered;
}

/** The JSON Schema that the reply has to fit, if it has to fit one. */
function schemaOf(format: unknown): unknown {
  const { type, json_schema: own } = (format ?? {}) as { type?: unknown; json_schema?: { schema?: unknown } };
  if (type === "json_object") return { type: "object", properties: { answer: { type: "string" } } };
  return type === "json_schema" ? own?.schema : undefined;
}

/** The tools of which one has to be called; a text says what is wrong with the choice. */
function chosenIn(choice: unknown, offered: readonly Offered[]): { names: string[] } | string {
  if (choice === "auto" || choice === "none") return { names: [] };
  const all = offered.map(({ name }) => name);
  if (all.length === 0) return "tool_choice needs tools.";
  if (choice === "required") return { names: all };
  const name = (choice as { function?: { name?: unknown } } | null)?.function?.name;
  if (typeof name !== "string" || !all.includes(name)) return "tool_choice names no tool that is offered.";
  return { names: [name] };
}

/** Reads the messages of a request in order: roles by turns, each call of a tool with its answer. */
class Reading {
  said: Said[] = [];
  /** Calls that were answered since the newest question. */
  made: Called[] = [];
  pictures: Picture[] = [];
  noted: { role: string; content: string }[] = [];
  input = 3;
  private before = "";
  /** Calls that wait for their answer, by their ids. */
  private waiting = new Map<string, Asking>();

  /** Takes the next message; what it gives says what is wrong with it. */
  take(message: Message, place: string, at: number): string | undefined {
    const { role } = message ?? {};
    if (role === "tool") return this.takeAnswer(message, place);
    if (typeof role !== "string" || !Object.hasOwn(roles, role))
      return `${place}.role is one of system, user, assistant and tool.`;
    if (this.waiting.size > 0) return `${place}: ${[...this.waiting.keys()].join(", ")} has no answer yet.`;
    if (role === "system" && at > 0) return `${place}: a system message stands first.`;
    if (role === this.before) return `${place}: two messages of the ${role} in a row.`;
    if (role === "assistant" && (this.before === "" || this.before === "system"))
      return `${place}: the user speaks first.`;
    if (role === "user") this.made = [];
    const calls = role === "assistant" ? this.takeCalls(message, place) : 0;
    if (typeof calls === "string") return calls;
    const text = this.textIn(message, role);
    if (text === undefined || (text === "" && calls === 0 && this.pictures.length === 0))
      return `${place}.content is empty.`;
    this.note(role, text);
    if (text !== "" || calls === 0) this.said.push({ by: roles[role as keyof typeof roles], text });
    this.before = role;
    return undefined;
  }

  /** What is missing at the end, if something is. */
  end(): string | undefined {
    if (this.waiting.size > 0) return `${[...this.waiting.keys()].join(", ")} has no answer yet.`;
    return this.before === "system" ? "messages has nothing to answer." : undefined;
  }

  get endsWithTools(): boolean {
    return this.before === "tool";
  }

  private takeAnswer({ tool_call_id: id, content }: Message, place: string): string | undefined {
    const call = this.waiting.get(String(id));
    if (!call) return `${place}.tool_call_id is of no call that waits for an answer.`;
    if (typeof content !== "string") return `${place}.content is no text.`;
    this.waiting.delete(String(id));
    this.made.push({ ...call, result: content });
    this.note("tool", content);
    this.before = "tool";
    return undefined;
  }

  /** Takes the calls that an assistant's message asks for, and gives how many they are. */
  private takeCalls({ tool_calls: calls = [] }: Message, place: string): number | string {
    if (!Array.isArray(calls)) return `${place}.tool_calls is no list.`;
    for (const [at, call] of calls.entries()) {
      const { id, function: asked } = call as { id?: unknown; function?: { name?: unknown; arguments?: unknown } };
      const given = argumentsIn(asked?.arguments);
      if (typeof id !== "string" || typeof asked?.name !== "string" || given === undefined)
        return `${place}.tool_calls[${at}] needs an id, and a function with its name and its arguments in JSON.`;
      this.waiting.set(id, { name: asked.name, arguments: given });
      this.input += tokensOf(`${asked.name} ${String(asked.arguments)}`).length + 3;
    }
    return calls.length;
  }

  /** The text of a message, given as one or in typed pieces; the pictures of the newest question are kept. */
  private textIn({ content }: Message, role: string): string | undefined {
    if (role === "user") this.pictures = [];
    if (content === null || content === undefined) return role === "assistant" ? "" : undefined;
    if (typeof content === "string") return content;
    if (!Array.isArray(content)) return undefined;
    let text = "";
    for (const piece of content as { type?: unknown; text?: unknown; image_url?: { url?: unknown } }[]) {
      if (piece?.type === "text" && typeof piece.text === "string") text += piece.text;
      else if (piece?.type !== "image_url" || role !== "user") return undefined;
      else {
        const url = String(piece.image_url?.url);
        const address = url.startsWith("https://") ? url : undefined;
        const data = /^data:image\/\w+;base64,(.+)$/s.exec(url)?.[1];
        const picture = address
          ? { address, kind: "", width: 800, height: 800 }
          : data === undefined
            ? undefined
            : pictureIn(Buffer.from(data, "base64"));
        if (!picture) return undefined;
        this.pictures.push(picture);
        this.input += tokensOfPicture(picture);
      }
    }
    return text;
  }

  private note(role: string, content: string): void {
    this.noted.push({ role, content });
    this.input += tokensOf(content).length + 3;
  }
}

/** Tokens of a picture: by squares of 400 pixels. */
function tokensOfPicture({ width, height }: Picture): number {
  return 60 + 90 * Math.ceil(width / 400) * Math.ceil(height / 400);
}

function argumentsIn(text: unknown): Record<string, unknown> | undefined {
  try {
    const value = JSON.parse(String(text));
    return typeof value === "object" && value !== null ? value : undefined;
  } catch {
    return undefined;
  }
}

/** A text in Reedbed's tokens: words in parts of up to five letters with the space before them, other signs one by one. */
export function tokensOf(text: string): string[] {
  return text.match(/ ?\p{L}{1,5}|\p{L}{1,5}| ?\p{N}{1,2}|\s+|[^\p{L}\p{N}\s]/gu) ?? [];
}

function usageOf(input: number, takes: Speech[], { fault }: Call): object | undefined {
  const thought = takes.reduce((sum, take) => sum + take.thought.length, 0);
  const output = takes.reduce((sum, take) => sum + take.text.length + tokensOfCalls(take.calls, tokensOf), thought);
  if (fault?.usage === "none") return undefined;
  if (fault?.usage === "wrong") return { prompt_tokens: -1, completion_tokens: "many" };
  return {
    prompt_tokens: input,
    completion_tokens: output,
    total_tokens: input + output,
    reasoning_tokens: thought,
  };
}

/** As what each model answers: its name stands for what there is now. */
const versions: Record<string, string> = { "reed-swift": "reed-swift-4", "reed-deep": "reed-deep-2" };

const finishes = { itself: "stop", limit: "length", "stop word": "stop", tools: "tool_calls" } as const;

interface Reply {
  model: string;
  usage: object | undefined;
  /** Tokens of what came in, which tell the calls of one answer from those of another. */
  input: number;
}

function idOf(index: number, input: number): string {
  return `call-${input}-${index}`;
}

function wholeCall(call: Asking, id: string): object {
  return { id, type: "function", function: { name: call.name, arguments: argumentsOf(call) } };
}

/** A fragment of a call as a delta: its first one says what it is. */
function fragmentAt({ index, name, arguments: part }: CallFragment, input: number): object {
  const about = name === undefined ? {} : { id: idOf(index, input), type: "function" };
  const named = name === undefined ? {} : { name };
  return { tool_calls: [{ index, ...about, function: { ...named, arguments: part } }] };
}

async function streamed(
  response: ServerResponse,
  call: Call,
  pace: Parameters<typeof deliver>[2],
  { model, usage, input }: Reply,
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
  const asked = fragmentsOf(first.calls).map((fragment) => fragmentAt(fragment, input));
  const ofOthers = takes.slice(1).map(({ calls }) => fragmentsOf(calls).map((fragment) => fragmentAt(fragment, input)));
  await deliver(response, call, pace, {
    contentType: "text/event-stream; charset=utf-8",
    opening: takes.map((_, at) => event(choice(at, { role: "assistant", content: "" }))),
    thought: first.thought,
    // of calls each fragment is what a token is of a text
    text: first.calls.length > 0 ? fragmentsOf(first.calls).map((fragment) => fragment.arguments) : first.text,
    // the takes come mixed: each event of the first brings one of every other along
    event: (token, isThought) =>
      [
        event(choice(0, isThought ? { reasoning: token } : (asked.shift() ?? { content: token }))),
        ...others.map((rest, at) => (rest.length > 0 ? event(choice(at + 1, { content: rest.shift() })) : "")),
      ].join(""),
    closing: () => [
      ...ofOthers.flatMap((fragments, at) => fragments.map((fragment) => event(choice(at + 1, fragment)))),
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
  { model, usage, input }: Reply,
  takes: Speech[],
): Promise<void> {
  const isEmpty = call.fault?.isSilent ?? false;
  const first = takes[0] as Speech;
  const choices = takes.map(({ text, thought, calls, ended }, index) => ({
    index,
    message: {
      role: "assistant",
      content: isEmpty || calls.length > 0 ? null : text.join(""),
      ...(calls.length > 0 ? { tool_calls: calls.map((each, at) => wholeCall(each, idOf(at, input))) } : {}),
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
