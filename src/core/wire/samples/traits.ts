import { sampleKey } from "./sample";

/** One API that differs from the plain one in a single trait: what a developer pastes of it, and what must come of it. */
export interface TraitApi {
  /** What is otherwise. */
  trait: string;
  command: string;
  answer: string;
  /** What the developer says to questions, by their ids; exactly these are asked. */
  says?: Record<string, string>;
  /** The request that the canonical call makes of it. */
  path: string;
  headers: Record<string, string>;
  body: unknown;
  model: string;
  text: string;
  thought?: string;
  counts?: { input?: number; output?: number; thought?: number };
  end: string;
  /** What is taken for nothing, by where it stands. */
  untold?: string[];
}

const prompt = "You are the desk of Saltmarsh Ferry.";
const [first, reply, last] = ["Does the 8:10 run?", "Yes, from Mill Quay.", "On Sunday too?"];

type Turns = readonly [role: "system" | "user" | "assistant", text: string][];
const pasted: Turns = [
  ["system", "Be brief."],
  ["user", "Which quay?"],
  ["assistant", "Mill Quay."],
  ["user", "And back?"],
];
const sent: Turns = [
  ["system", prompt],
  ["user", first],
  ["assistant", reply],
  ["user", last],
];
const plain = (turns: Turns) => turns.map(([role, content]) => ({ role, content }));
const withoutSystem = (turns: Turns) => turns.slice(1);
/** The prompt before the first visitor's message, where an API has no place for it. */
const promptFirst: Turns = [["user", `${prompt}\n\n${first}`], ...sent.slice(2)];

const reading = { text: "From Mill Quay.", end: "complete" };
const sse = (...data: (string | object)[]) =>
  `HTTP/1.1 200 OK\ncontent-type: text/event-stream\n\n${data
    .map((each) => `data: ${typeof each === "string" ? each : JSON.stringify(each)}\n\n`)
    .join("")}`;
const typed = (type: string, body: string) => `HTTP/1.1 200 OK\ncontent-type: ${type}\n\n${body}`;
const whole = (document: object) => typed("application/json", JSON.stringify(document));
const parts = ["From", " Mill", " Quay."];
const deltas = (as: (text: string) => object) => parts.map(as);
const said = (text: string) => ({ choices: [{ index: 0, delta: { content: text }, finish_reason: null }] });
const finished = { choices: [{ index: 0, delta: {}, finish_reason: "stop" }] };
const usual = sse(...deltas(said), finished, "[DONE]");

interface Variant extends Partial<Omit<TraitApi, "command" | "body">> {
  trait: string;
  url?: string;
  options?: string;
  /** The body for what is said, with the values of settings. */
  write?(turns: Turns, settings: { temperature: number; max: number }): unknown;
  /** What the canonical call sends, where it is no more than what is written. */
  sends?: Turns;
}

const body: NonNullable<Variant["write"]> = (turns, { temperature, max }) => ({
  model: "reed-9",
  messages: plain(turns),
  temperature,
  max_tokens: max,
  stream: true,
});

const quoted = (text: string) => `'${text.replaceAll("'", "'\\''")}'`;

function api({
  write = body,
  url = "https://any.test/v1/say",
  options = "",
  sends = sent,
  ...more
}: Variant): TraitApi {
  const own = JSON.stringify(write(pasted, { temperature: 0.4, max: 120 }));
  return {
    command: `curl ${quoted(url)} -H 'content-type: application/json' -H "authorization: Bearer $ANY_KEY" ${options} -d ${quoted(own)}`,
    answer: usual,
    path: new URL(url).pathname,
    headers: { authorization: `Bearer ${sampleKey}` },
    body: write(sends, { temperature: 0.7, max: 800 }),
    model: "reed-9",
    ...reading,
    ...more,
  };
}

const variants: Variant[] = [
  { trait: "nothing of its own" },
  {
    trait: "the prompt as a field",
    write: (turns, settings) => ({
      ...(body(withoutSystem(turns), settings) as object),
      instructions: turns[0]?.[1],
    }),
  },
  {
    trait: "no place for the prompt",
    write: (turns, settings) => body(turns[0]?.[0] === "system" ? withoutSystem(turns) : turns, settings),
    sends: promptFirst,
  },
  {
    trait: "other words for roles",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, content]) => ({
        author: { system: "BRIEF", user: "GUEST", assistant: "DESK" }[role],
        content,
      })),
    }),
  },
  {
    trait: "content as typed pieces",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) => ({ role, content: [{ type: "text", text }] })),
    }),
  },
  {
    trait: "content as a list of parts without types",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) => ({ role, parts: [{ text }] })),
    }),
  },
  {
    trait: "content as a list of strings",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) => ({ role, content: [text] })),
    }),
  },
  {
    trait: "content one level down",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) => ({ role, content: { body: { text, lang: "en" } } })),
    }),
  },
  {
    trait: "messages deep in the body",
    write: (turns, settings) => ({
      input: { conversation: { turns: plain(turns) } },
      parameters: { temperature: settings.temperature, max_new_tokens: settings.max },
      model: "reed-9",
      stream: true,
    }),
  },
  {
    trait: "all of it one text",
    write: (turns, settings) => ({
      model: "reed-9",
      prompt: `${turns.map(([role, text]) => `${{ system: "System", user: "User", assistant: "Assistant" }[role]}: ${text}`).join("\n")}\nAssistant:`,
      temperature: settings.temperature,
      max_tokens: settings.max,
      stream: true,
    }),
  },
  {
    trait: "settings nested, under other names",
    write: (turns, { temperature, max }) => ({
      model: "reed-9",
      messages: plain(turns),
      speech: { temp: temperature, longest: max },
      stream: true,
    }),
  },
  {
    trait: "camel case throughout",
    write: (turns, { temperature, max }) => ({
      modelName: "reed-9",
      chatMessages: turns.map(([role, text]) => ({ senderRole: role, messageText: text })),
      sampling: { temperature, maxTokens: max },
      isStreaming: true,
    }),
  },
  {
    trait: "headers that are fixed",
    options: "-H 'x-api-version: 2026-01-01' -H 'accept: text/event-stream'",
    headers: {
      authorization: `Bearer ${sampleKey}`,
      "x-api-version": "2026-01-01",
      accept: "text/event-stream",
    },
  },
  {
    trait: "the model in the path",
    url: "https://any.test/v1/models/reed-9/say",
    write: (turns, { temperature, max }) => ({ messages: plain(turns), temperature, max_tokens: max, stream: true }),
  },
  {
    trait: "a model with slashes in its name",
    write: (turns, settings) => ({ ...(body(turns, settings) as object), model: "shore/marsh/reed-9:free" }),
    model: "shore/marsh/reed-9:free",
  },
  {
    trait: "a model with slashes in the path",
    url: "https://any.test/models/shore/reed-9/say",
    write: (turns, { temperature, max }) => ({ messages: plain(turns), temperature, max_tokens: max, stream: true }),
    model: "shore/reed-9",
    says: { model: "shore/reed-9" },
  },
  {
    trait: "named events",
    answer: typed(
      "text/event-stream",
      `event: begin\ndata: {"id":"r1"}\n\n${parts.map((text) => `event: piece\ndata: ${JSON.stringify({ text })}\n\n`).join("")}event: over\ndata: {"reason":"stop"}\n\n`,
    ),
  },
  {
    trait: "types in the events",
    answer: sse(
      { type: "reply.begun", reply: { id: "r_8f31", model: "reed-9" } },
      ...deltas((text) => ({ type: "reply.piece", piece: { type: "text_piece", text } })),
      { type: "reply.over", reason: "stop", tokens: { input: 21, output: 3 } },
    ),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "an array that grows",
    answer: typed(
      "application/json",
      `[${[...deltas((text) => ({ out: { parts: [{ text }] } })), { out: { parts: [] }, finish: "STOP" }].map((each) => JSON.stringify(each)).join(",\n")}]`,
    ),
  },
  {
    trait: "text so far",
    answer: sse(
      { text: "From", done: false },
      { text: "From Mill", done: false },
      { text: "From Mill Quay.", done: false },
      { text: "From Mill Quay.", done: true, reason: "stop" },
    ),
  },
  {
    trait: "thoughts beside the text",
    answer: sse(
      { delta: { reasoning: "The guest asks" } },
      { delta: { reasoning: " for the way." } },
      ...deltas((content) => ({ delta: { content } })),
      { delta: {}, finish_reason: "stop" },
    ),
    thought: "The guest asks for the way.",
  },
  {
    trait: "thoughts as pieces of another type",
    answer: sse(
      { piece: { type: "thinking", text: "The guest asks" } },
      { piece: { type: "thinking", text: " for the way." } },
      ...deltas((text) => ({ piece: { type: "text", text } })),
      { finish_reason: "stop" },
    ),
    thought: "The guest asks for the way.",
  },
  {
    trait: "several pieces of text in one event",
    answer: sse(
      { parts: [{ text: "From" }, { text: " Mill" }] },
      { parts: [{ text: " Quay." }] },
      { parts: [], finish: "stop" },
    ),
  },
  {
    trait: "two takes mixed",
    answer: sse(
      { choices: [{ index: 0, delta: { content: "From" } }] },
      { choices: [{ index: 1, delta: { content: "It" } }] },
      { choices: [{ index: 0, delta: { content: " Mill Quay." } }] },
      { choices: [{ index: 1, delta: { content: " is Mill Quay." } }] },
      { choices: [{ index: 0, delta: {}, finish_reason: "stop" }] },
      { choices: [{ index: 1, delta: {}, finish_reason: "stop" }] },
      "[DONE]",
    ),
  },
  {
    trait: "usage in one event",
    answer: sse(
      ...deltas(said),
      finished,
      { usage: { prompt_tokens: 21, completion_tokens: 3, total_tokens: 24 } },
      "[DONE]",
    ),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "usage split over two events",
    answer: sse({ type: "start", usage: { input_tokens: 21 } }, ...deltas((text) => ({ type: "delta", text })), {
      type: "stop",
      ended: "finished",
      usage: { output_tokens: 3 },
    }),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "usage that is asked for",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      stream_options: { include_usage: true },
    }),
    answer: sse(
      ...deltas(said),
      finished,
      { choices: [], usage: { prompt_tokens: 21, completion_tokens: 3 } },
      "[DONE]",
    ),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "usage in the last line",
    answer: typed(
      "application/x-ndjson",
      [
        ...deltas((content) => ({ message: { role: "assistant", content }, done: false })),
        {
          message: { role: "assistant", content: "" },
          done: true,
          why: "stop",
          heard_count: 21,
          spoken_count: 3,
          took_ms: 812,
        },
      ]
        .map((each) => `${JSON.stringify(each)}\n`)
        .join(""),
    ),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "counts as text",
    answer: sse(...deltas(said), finished, { usage: { input: "21", output: "3" } }, "[DONE]"),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "a finish of its own words",
    answer: sse(...deltas((text) => ({ text })), { text: "", why: "moored" }),
    says: { "finish moored": "complete" },
  },
  {
    trait: "a finish as a number",
    answer: sse(...deltas((text) => ({ text, finish: 0 })), { text: "", finish: 2 }),
    says: { "finish 2": "complete" },
  },
  {
    trait: "a finish beside the last piece of text",
    answer: sse({ text: "From", finish: null }, { text: " Mill", finish: null }, { text: " Quay.", finish: "stop" }),
  },
  {
    trait: "no streaming at all",
    write: (turns, { temperature, max }) => ({ model: "reed-9", messages: plain(turns), temperature, max_tokens: max }),
    answer: whole({
      id: "r-8f31",
      created: 1764432000,
      model: "reed-9",
      choices: [{ message: { role: "assistant", content: "From Mill Quay." }, finish_reason: "stop" }],
      usage: { prompt_tokens: 21, completion_tokens: 3, total_tokens: 24 },
    }),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "a whole reply in pieces",
    write: (turns, { temperature, max }) => ({ model: "reed-9", messages: plain(turns), temperature, max_tokens: max }),
    answer: whole({
      model: "reed-9",
      content: [
        { type: "text", text: "From" },
        { type: "text", text: " Mill Quay." },
      ],
      ended: "finished",
      usage: { input_tokens: 21, output_tokens: 3 },
    }),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "heartbeats that are no JSON",
    answer: sse("ping", ...deltas(said), "ping", finished, "[DONE]"),
  },
  {
    trait: "comments and events without data",
    answer: typed(
      "text/event-stream",
      `: open\n\nevent: ping\ndata:\n\n${deltas(said)
        .map((each) => `data: ${JSON.stringify(each)}\n\n`)
        .join(": still here\n\n")}data: ${JSON.stringify(finished)}\n\ndata: [DONE]\n\n`,
    ),
  },
  {
    trait: "lines of JSON under the type of plain text",
    answer: typed(
      "text/plain",
      [...deltas((token) => ({ token })), { token: "", stop: "eos" }]
        .map((each) => `${JSON.stringify(each)}\n`)
        .join(""),
    ),
  },
  {
    trait: "tokens with their ids and likelihoods",
    answer: sse(
      ...parts.map((text, at) => ({
        index: at + 1,
        token: { id: 317 + at, text, weight: -0.25, mark: false },
        whole: null,
        details: null,
      })),
      {
        index: 4,
        token: { id: 2, text: "</s>", weight: -0.01, mark: true },
        whole: "From Mill Quay.",
        details: { why: "eos", spoken_tokens: 4, begun: [] },
      },
    ),
    counts: { output: 4 },
  },
  {
    trait: "the newest message apart",
    write: (turns, { temperature, max }) => ({
      model: "reed-9",
      manner: turns[0]?.[1],
      earlier: turns.slice(1, -1).map(([role, message]) => ({ side: role === "user" ? "GUEST" : "DESK", message })),
      message: turns.at(-1)?.[1],
      temperature,
      max_tokens: max,
      stream: true,
    }),
  },
  {
    trait: "a stream asked for by the query",
    url: "https://any.test/v1/say?alt=sse",
    path: "/v1/say?alt=sse",
    write: (turns, { temperature, max }) => ({ model: "reed-9", messages: plain(turns), temperature, max_tokens: max }),
  },
  {
    trait: "who speaks as a number",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: withoutSystem(turns).map(([role, text]) => ({ from: role === "user" ? 0 : 1, text })),
      manner: turns[0]?.[1],
    }),
  },
  {
    trait: "a prompt of another form than the other messages",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) =>
        role === "system" ? { role, content: text } : { role, content: [{ kind: `${role} words`, text }] },
      ),
    }),
  },
  {
    trait: "a picture in a message before",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: turns.map(([role, text]) => ({
        role,
        content: [
          { type: "text", text },
          ...(text === "Which quay?"
            ? [{ type: "picture", at: `data:image/png;base64,${"iVBORw0KGgo".repeat(20)}` }]
            : []),
        ],
      })),
    }),
  },
  {
    trait: "an answer that says again all that was sent",
    write: (turns, { temperature, max }) => ({ model: "reed-9", messages: plain(turns), temperature, max_tokens: max }),
    answer: whole({
      lines: [
        { by: "user", words: "Which quay?" },
        { by: "assistant", words: "Mill Quay." },
        { by: "user", words: "And back?" },
        { by: "assistant", words: "From Mill Quay." },
      ],
      why: "stop",
    }),
  },
  {
    trait: "fragments of several kinds in numbered blocks, each with its type",
    answer: sse(
      { type: "opened", block: 0, holds: { type: "musing" } },
      { type: "more", block: 0, add: { type: "musing_part", musing: "The guest asks." } },
      { type: "opened", block: 1, holds: { type: "talk" } },
      ...deltas((words) => ({ type: "more", block: 1, add: { type: "talk_part", words } })),
      { type: "shut", why: "stop" },
    ),
    thought: "The guest asks.",
  },
  {
    trait: "the whole text once more in an event of another type",
    answer: sse(
      ...deltas((words) => ({ type: "part", words })),
      { type: "whole", words: "From Mill Quay." },
      { type: "over", why: "stop" },
    ),
  },
  {
    trait: "counts that begin in the first event and are told anew in the last",
    answer: sse({ tally: { input: 21, output: 1 } }, ...deltas((words) => ({ words })), {
      why: "stop",
      sum: { tally: { output: 3 } },
    }),
    counts: { input: 21, output: 3 },
  },
  {
    trait: "a finish under a name that nobody knows",
    answer: sse(...deltas((words) => ({ words })), { words: "", knot: "moored" }),
    says: { "finish moored": "complete" },
  },
  {
    trait: "one word under a name that nobody knows",
    write: (turns, { temperature, max }) => ({ model: "reed-9", messages: plain(turns), temperature, max_tokens: max }),
    answer: whole({ z: "Brindle.", ms: 31 }),
    text: "Brindle.",
  },
  {
    trait: "tools whose parts have names of their own",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      ...(turns === pasted
        ? { crafts: [{ label: "timetable", about: "When boats leave.", given: { type: "object", properties: {} } }] }
        : {}),
    }),
  },
  {
    trait: "one word again and again",
    answer: sse(...[1, 2, 3, 4].map(() => ({ word: "ho " })), { word: "", why: "stop" }),
    text: "ho ho ho ho ",
  },
  {
    trait: "texts alone, in turns",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      messages: withoutSystem(turns).map(([, text]) => text),
      manner: turns[0]?.[1],
    }),
  },
  {
    trait: "flags that ask for no stream, and one that does under another name",
    write: (turns, { temperature, max }) => ({
      model: "reed-9",
      messages: plain(turns),
      temperature,
      max_tokens: max,
      live: true,
      trace: true,
    }),
    untold: ["$.trace"],
  },
  {
    trait: "a user's id, a penalty and what nobody knows",
    write: (turns, settings) => ({
      ...(body(turns, settings) as object),
      user: "guest-17",
      presence_penalty: 0,
      safety: { level: "low" },
      metadata: { trip: "north" },
    }),
    untold: ["$.user", "$.presence_penalty", "$.safety", "$.metadata"],
  },
];

/** APIs that differ from a plain one in a single trait each. */
export const traits: TraitApi[] = variants.map(api);
