import type { IncomingMessage, ServerResponse } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import type { Call } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { readJson, sendJson } from "../json";
import { type Asked, asPlanned, type Model, numberIn, speak, stopWordsIn } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "lantern-one": {
    window: 1_024,
    price: { input: 0, output: 0 },
    pace: { firstMs: 120, tokensPerSecond: 40 },
    isBrief: true,
    thinks: false,
    isCareless: false,
  },
};

const plain = { price: { input: 0, output: 0 }, isBrief: true, thinks: false, isCareless: false };

/** Lamps that are there for whoever looks for them: one that cuts the front of what it hears in silence, one that is fetched first. */
const further: Record<string, Model & { hears?: number }> = {
  "lantern-dim": { ...plain, window: 4_096, hears: 640, pace: { firstMs: 100, tokensPerSecond: 60 } },
  "lantern-far": { ...plain, window: 2_048, pace: { firstMs: 140, tokensPerSecond: 50 } },
};
const lamps: Record<string, Model & { hears?: number }> = { ...models, ...further };
/** The lamp that has to be fetched, how large it is, and what comes of it at a time. */
const far = { lamp: "lantern-far", bytes: 48_000_000, partBytes: 6_000_000, partMs: 150 };

/** The version of this API that the header has to name. */
export const version = "2026-03-01";

/** Milliseconds that the first call waits for the model to be loaded. */
const loadingMs = 3_000;

/**
 * Lantern: local and free. NDJSON, no key, a dated version header, settings nested, counts and
 * durations in the last line, a small context window; the first call loads the model.
 */
export function lantern(): StandIn {
  const lit = new Set<string>();
  const here = new Set(Object.keys(lamps).filter((lamp) => lamp !== far.lamp));
  return {
    about: { name: "Lantern", profile: "json-lines", credential: { kind: "none" }, models: listed(models) },
    samples: {},
    failure: (status, smoke) => ({ smoke, sort: `planned ${status}` }),
    async answer(request, response, call) {
      if (request.headers["lantern-version"] !== version)
        return smoke(response, 400, "old wick", `The header lantern-version has to be ${version}.`);
      const path = new URL(request.url ?? "/", "http://lantern").pathname;
      if (request.method === "GET" && path === "/lamps")
        return sendJson(response, 200, {
          lamps: Object.entries(lamps).map(([name, { window }]) => ({
            name,
            room: window,
            here: here.has(name),
            lit: lit.has(name),
          })),
        });
      const [, fetched] = /^\/lamps\/([\w-]+)\/fetch$/.exec(path) ?? [];
      if (request.method === "POST" && fetched) return fetchLamp(response, call, fetched, here);
      if (request.method === "POST" && path === "/lamps/shine") return reply(request, response, call, lit, here);
      smoke(response, 404, "dark", `It is dark at ${request.method} ${path}.`);
    },
  };
}

/** Fetches a lamp, and says line by line how much of it has come. */
async function fetchLamp(response: ServerResponse, call: Call, lamp: string, here: Set<string>): Promise<void> {
  if (!lamps[lamp]) return smoke(response, 404, "no lamp", `There is no lamp ${lamp} anywhere.`);
  response.writeHead(200, { "content-type": "application/x-ndjson" });
  const tell = (came: number) => response.write(`${JSON.stringify({ lamp, came, of: far.bytes })}\n`);
  for (let came = here.has(lamp) ? far.bytes : 0; came < far.bytes; came += far.partBytes) {
    tell(came);
    if (!call.pace) await wait(far.partMs, undefined, { signal: call.signal });
  }
  here.add(lamp);
  response.end(`${JSON.stringify({ lamp, came: far.bytes, of: far.bytes, here: true })}\n`);
}

/** What a lamp hears of a talk: of one that cuts in silence the last lines, and of the first of them the end. */
function heardBy({ hears }: { hears?: number }, said: Asked["said"]): Asked["said"] {
  if (hears === undefined) return said;
  const heard: Asked["said"] = [];
  let left = hears;
  for (const line of [...said].reverse()) {
    const tokens = tokensOf(line.text);
    if (left <= 0) break;
    heard.unshift(tokens.length <= left ? line : { ...line, text: tokens.slice(-left).join("") });
    left -= tokens.length + 1;
  }
  return heard;
}

async function reply(
  request: IncomingMessage,
  response: ServerResponse,
  call: Call,
  lit: Set<string>,
  here: Set<string>,
): Promise<void> {
  const started = performance.now();
  const asked = bodyFrom(await readJson(request));
  if (typeof asked === "string") return smoke(response, 400, "unclear", asked);
  const model = lamps[asked.lamp];
  if (!model)
    return smoke(response, 404, "no lamp", `There is no lamp ${asked.lamp}, only ${Object.keys(models).join(", ")}.`);
  if (!here.has(asked.lamp))
    return smoke(
      response,
      404,
      "not here",
      `${asked.lamp} is not here yet: POST /lamps/${asked.lamp}/fetch brings it.`,
    );
  const input = asked.said.reduce((sum, { text }) => sum + tokensOf(text).length + 1, 0);
  if (input + (asked.maxOutput ?? 1) > model.window)
    return smoke(response, 400, "no room", `${asked.lamp} has room for ${model.window}: ${input} came in.`);
  if (!lit.has(asked.lamp)) {
    if (!call.pace) await wait(loadingMs, undefined, { signal: call.signal });
    lit.add(asked.lamp);
  }
  const loadMs = Math.round(performance.now() - started);

  const speech = speak({ ...asked, said: heardBy(model, asked.said) }, asPlanned(model, call), tokensOf);
  const text = speech.text.join("");
  call.begin({ model: asked.lamp, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const why = { itself: "burnt down", limit: "out of wick", "stop word": "snuffed", tools: "burnt down" }[speech.ended];
  const last = () => ({
    lamp: asked.lamp,
    out: true,
    why,
    ...(call.fault?.usage === "none"
      ? {}
      : { counted: call.fault?.usage === "wrong" ? "a few" : { asked: input, shone: speech.text.length } }),
    took: { loadMs, allMs: Math.round(performance.now() - started) },
  });
  const pace = call.pace ?? model.pace;
  if (!asked.flow) {
    const isEmpty = call.fault?.isSilent ?? false;
    await deliverWhole(response, call, pace, speech.text, text, { ...(isEmpty ? {} : { line: text }), ...last() });
    return;
  }
  const line = (body: object) => `${JSON.stringify(body)}\n`;
  await deliver(response, call, pace, {
    contentType: "application/x-ndjson",
    opening: [],
    thought: [],
    text: speech.text,
    event: (token) => line({ lamp: asked.lamp, line: token, out: false }),
    closing: () => [line(last())],
    ends: 1,
    broken: '{"lamp": "lantern-o\n',
  });
}

interface Body extends Asked {
  lamp: string;
  flow: boolean;
}

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "the body is no JSON object";
  const { lamp, lines, set = {}, flow } = body as Record<string, unknown>;
  if (typeof lamp !== "string") return "lamp is missing";
  if (!Array.isArray(lines) || lines.length === 0) return "lines is missing or empty";
  let before = "";
  for (const [at, { who, line }] of lines.entries()) {
    if (who !== "asker" && who !== "lamp") return `lines[${at}].who is asker or lamp`;
    if (typeof line !== "string" || line.trim() === "") return `lines[${at}].line is empty`;
    if (who === before || (at === 0 && who === "lamp")) return `lines[${at}]: it is not the ${who}'s turn`;
    before = who;
  }
  const { heat, share, top, wick, snuff, seed } = (set ?? {}) as Record<string, unknown>;
  if (wick !== undefined && (!Number.isInteger(wick) || (wick as number) < 1)) return "set.wick is a number from 1";
  return {
    lamp,
    said: lines.map(({ who, line }) => ({ by: who === "asker" ? ("visitor" as const) : ("app" as const), text: line })),
    flow: flow !== false,
    maxOutput: wick as number | undefined,
    stop: stopWordsIn(snuff),
    seed: numberIn(seed),
    freedom: { temperature: numberIn(heat), topP: numberIn(share), topK: numberIn(top) },
  };
}

/** A text in Lantern's tokens: up to four letters or figures with the space before them, or one other character. */
export function tokensOf(text: string): string[] {
  return text.match(/ ?[\p{L}\p{N}]{1,4}|[^\p{L}\p{N}]/gsu) ?? [];
}

function smoke(response: ServerResponse, status: number, sort: string, words: string): void {
  sendJson(response, status, { smoke: words, sort });
}
