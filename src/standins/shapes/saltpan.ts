import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call as Serving } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { type Picture, pictureIn } from "../engine/pictures";
import type { Call, Called, Offered } from "../engine/tools";
import { readJson, sendJson } from "../json";
import { type Asked, asPlanned, type Model, numberIn, speak, stopWordsIn, tokensOfCalls } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "pan-clear": {
    window: 12_000,
    price: { input: 1.8, output: 7.2 },
    pace: { firstMs: 300, tokensPerSecond: 44 },
    isBrief: false,
    thinks: true,
    sees: true,
    isCareless: false,
  },
  "pan-brief": {
    window: 6_000,
    price: { input: 0.3, output: 0.9 },
    pace: { firstMs: 140, tokensPerSecond: 80 },
    isBrief: true,
    thinks: false,
    isCareless: false,
  },
};

/** A model that is asked for, and granted after so many further calls. */
const sealed = { name: "pan-sealed", grantedAfter: 3, model: models["pan-brief"] as Model };
/** What has become of the asking. */
type Access = { calls: number } | "not asked" | "granted";

/** The made-up key that Saltpan accepts unless it is started with another. */
export const sampleKey = "salt-91bd-sample";

/**
 * Saltpan: named events that repeat the whole text so far, the system prompt in a field of its own,
 * the model in the path, and guest and host speaking by turns.
 */
export function saltpan(key = sampleKey): StandIn {
  let access: Access = "not asked";
  /** Every call brings the granting nearer. */
  const stands = (): Access => {
    if (typeof access === "object") {
      access.calls += 1;
      if (access.calls > sealed.grantedAfter) access = "granted";
    }
    return access;
  };
  return {
    about: {
      name: "Saltpan",
      profile: "named-events",
      credential: { kind: "key", secret: { variable: "SALTPAN_KEY" } },
      models: listed(models, ["tools"]),
    },
    samples: { SALTPAN_KEY: key },
    failure: (status, words) => ({ fault: { sort: `planned-${status}`, words } }),
    async answer(request, response, call) {
      if (request.headers["x-pan-key"] !== key)
        return refuse(response, 401, "no-entry", "x-pan-key is missing or not one of ours.");
      const path = new URL(request.url ?? "/", "http://saltpan").pathname;
      const stand = stands();
      if (request.method === "GET" && path === "/models")
        return sendJson(response, 200, {
          models: [
            ...Object.entries(models).map(([called, { window }]) => ({ called, holds: window, granted: true })),
            { called: sealed.name, holds: sealed.model.window, granted: stand === "granted" },
          ],
        });
      const [, wanted] = /^\/models\/([^/]+)\/ask$/.exec(path) ?? [];
      if (request.method === "POST" && wanted) {
        if (wanted === sealed.name && access === "not asked") access = { calls: 0 };
        const isKnown = wanted === sealed.name || models[wanted] !== undefined;
        if (!isKnown) return refuse(response, 404, "no-such-model", `${wanted} is not in the pans.`);
        return sendJson(response, 202, {
          called: wanted,
          standing: wanted === sealed.name && access !== "granted" ? "it is looked at" : "granted",
        });
      }
      const [, name] = /^\/models\/([^/]+)\/speak$/.exec(path) ?? [];
      if (request.method === "POST" && name === sealed.name && stand !== "granted")
        return refuse(
          response,
          403,
          "not-granted",
          stand === "not asked"
            ? `${name} is for those who ask: POST /models/${name}/ask.`
            : `${name} is asked for, and not granted yet: come back a little later.`,
        );
      if (request.method === "POST" && name) return reply(request, response, call, decodeURIComponent(name));
      refuse(response, 404, "nowhere", `${request.method} ${path} leads nowhere.`);
    },
  };
}

interface Body extends Asked {
  live: boolean;
  /** Whether it is to speak without thinking first. */
  musesNot: boolean;
  /** Tokens of what came in. */
  input: number;
}

async function reply(request: IncomingMessage, response: ServerResponse, call: Serving, name: string): Promise<void> {
  const asked = bodyFrom(await readJson(request));
  if (typeof asked === "string") return refuse(response, 422, "not-understood", asked);
  const model = name === sealed.name ? sealed.model : models[name];
  if (!model)
    return refuse(
      response,
      404,
      "no-such-model",
      `${name} is not in the pans; ${Object.keys(models).join(" and ")} are.`,
    );
  if (asked.pictures?.length && !model.sees)
    return refuse(response, 422, "no-eyes", `${name} sees no views; pan-clear does.`);
  const { input } = asked;
  if (input + (asked.maxOutput ?? 1) > model.window)
    return refuse(
      response,
      413,
      "too-much",
      `${name} holds ${model.window}; ${input} came in and ${asked.maxOutput ?? 1} are to come out.`,
    );

  const speech = speak(asked, { ...asPlanned(model, call), thinks: model.thinks && !asked.musesNot }, tokensOf);
  const text = speech.text.join("");
  call.begin({ model: name, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const tokens = speech.thought.length + speech.text.length + tokensOfCalls(speech.calls, tokensOf);
  const asks = speech.calls.map((each, at) => ({
    ref: `e${input}.${at}`,
    errand: each.name,
    with: each.written ?? each.arguments,
  }));
  const counted = (counts: object) => {
    if (call.fault?.usage === "none") return {};
    return { counted: call.fault?.usage === "wrong" ? { in: "plenty", out: -3 } : counts };
  };
  const because = { itself: "done", limit: "longest", "stop word": "halted", tools: "errands" }[speech.ended];
  const pace = call.pace ?? model.pace;
  const isEmpty = call.fault?.isSilent ?? false;
  if (!asked.live) {
    await deliverWhole(response, call, pace, [...speech.thought, ...speech.text], text, {
      ...(asks.length > 0 ? { asked: asks } : {}),
      ...(isEmpty ? {} : { said: text, ...(speech.thought.length > 0 ? { mused: speech.thought.join("") } : {}) }),
      because,
      ...counted({ in: input, out: tokens, musing: speech.thought.length }),
    });
    return;
  }
  const event = (name: string, data: object) => `event: ${name}\ndata: ${JSON.stringify(data)}\n\n`;
  const soFar = { said: "", mused: "" };
  await deliver(response, call, pace, {
    contentType: "text/event-stream",
    opening: [": saltpan\n\n", event("opened", { ref: `s-${input}`, ...counted({ in: input }) })],
    thought: speech.thought,
    // an errand comes whole, as one event
    text: asks.length > 0 ? asks.map(({ errand }) => errand) : speech.text,
    event(token, isThought) {
      const errand = isThought ? undefined : asks.shift();
      if (errand) return event("asked", errand);
      const name = isThought ? "mused" : "said";
      soFar[name] += token;
      return event(name, { sofar: soFar[name] });
    },
    closing: () => [event("closed", { because, ...counted({ out: tokens, musing: speech.thought.length }) })],
    ends: 1,
    broken: 'event: said\ndata: {"sofar":"broke\n\n',
  });
}

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "the body is no JSON object";
  const { manner, talk, errands, dials = {}, live } = body as Record<string, unknown>;
  if (!Array.isArray(talk) || talk.length === 0) return "talk is missing or empty";
  const read = readTalk(talk);
  if (typeof read === "string") return read;
  if (typeof dials !== "object" || dials === null) return "dials is no object";
  const { warmth, breadth, pick, longest, halt, seed, musing } = dials as Record<string, unknown>;
  if (musing !== undefined && musing !== "not at all" && musing !== "as long as it takes")
    return "dials.musing is “not at all” or “as long as it takes”";
  if (longest !== undefined && (!Number.isInteger(longest) || (longest as number) < 1))
    return "dials.longest is a number from 1";
  const offered = errandsIn(errands);
  if (offered === undefined)
    return "errands is a list of what can be asked for, each with the name that it is called by";
  const prompt = typeof manner === "string" && manner !== "" ? [{ by: "system" as const, text: manner }] : [];
  return {
    said: [...prompt, ...read.said],
    made: read.made,
    pictures: read.pictures,
    endsWithTools: read.endsWithTools,
    offered,
    input:
      read.input +
      prompt.reduce((sum, { text }) => sum + tokensOf(text).length + 2, 0) +
      (offered.length > 0 ? tokensOf(JSON.stringify(errands)).length : 0),
    live: live === true,
    musesNot: musing === "not at all",
    maxOutput: longest as number | undefined,
    stop: stopWordsIn(halt),
    seed: numberIn(seed),
    freedom: { temperature: numberIn(warmth), topP: numberIn(breadth), topK: numberIn(pick) },
  };
}

function errandsIn(errands: unknown): Offered[] | undefined {
  if (errands === undefined) return [];
  if (!Array.isArray(errands) || errands.length === 0) return undefined;
  const offered = errands.map(({ called, does, takes }) => ({
    name: String(called ?? ""),
    description: String(does ?? ""),
    parameters: takes,
  }));
  return offered.every(({ name }) => name !== "") ? offered : undefined;
}

interface Spoken {
  by?: unknown;
  words?: unknown;
  views?: { sort?: unknown; grain?: unknown }[];
  asks?: { ref?: unknown; errand?: unknown; with?: unknown }[];
  brought?: { ref?: unknown; told?: unknown }[];
}

/** Reads the talk: guest and host by turns, and what the host asked for brought by the guest right after it. */
function readTalk(
  talk: readonly Spoken[],
): { said: Asked["said"]; made: Called[]; pictures: Picture[]; endsWithTools: boolean; input: number } | string {
  const said: Asked["said"] = [];
  let made: Called[] = [];
  let pictures: Picture[] = [];
  let waiting = new Map<string, Call>();
  let input = 0;
  for (const [at, { by, words, views = [], asks = [], brought = [] }] of talk.entries()) {
    const turn = at % 2 === 0 ? "guest" : "host";
    if (by !== turn) return `talk[${at}].by: guest and host speak by turns, and here it is the ${turn}'s`;
    const text = typeof words === "string" ? words : "";
    if (text.trim() === "" && views.length + asks.length + brought.length === 0)
      return `talk[${at}].words says nothing`;
    input += tokensOf(text).length + 2;
    if (turn === "guest") {
      if (text.trim() !== "" || views.length > 0) [made, pictures] = [[], []];
      for (const { sort, grain } of views) {
        const picture = pictureIn(Buffer.from(String(grain), "base64"));
        if (!picture || !String(sort).startsWith("image/")) return `talk[${at}].views: that is no picture`;
        pictures.push(picture);
        input += 30 + 70 * Math.ceil((picture.width * picture.height) / 160_000);
      }
      for (const { ref, told } of brought) {
        const call = waiting.get(String(ref));
        if (!call) return `talk[${at}].brought: nobody asked for ${String(ref)}`;
        waiting.delete(String(ref));
        made.push({ ...call, result: String(told ?? "") });
        input += tokensOf(String(told ?? "")).length + 3;
      }
      if (waiting.size > 0) return `talk[${at}].brought: ${[...waiting.keys()].join(", ")} is missing`;
    } else
      for (const { ref, errand, with: given } of asks) {
        if (typeof given !== "object" || given === null) return `talk[${at}].asks: with is no object`;
        const call = { name: String(errand ?? ""), arguments: given as Record<string, unknown> };
        waiting = waiting.set(String(ref), call);
        input += tokensOf(`${call.name} ${JSON.stringify(given)}`).length + 3;
      }
    // what is only brought is no new question
    if (text.trim() !== "" || views.length > 0) said.push({ by: turn === "guest" ? "visitor" : "app", text });
  }
  if (talk.length % 2 === 0) return "talk ends with the host; the guest has to have the last word";
  const last = talk.at(-1);
  const endsWithTools = String(last?.words ?? "").trim() === "" && !last?.views;
  return { said, made, pictures, endsWithTools, input };
}

/** A text in Saltpan's tokens: whole words with the space before them, figures by threes, signs with the space before them. */
export function tokensOf(text: string): string[] {
  return text.match(/\s?\p{L}+|\s?\p{N}{1,3}|\s?[^\p{L}\p{N}\s]|\s+/gu) ?? [];
}

function refuse(response: ServerResponse, status: number, sort: string, words: string): void {
  sendJson(response, status, { fault: { sort, words } });
}
