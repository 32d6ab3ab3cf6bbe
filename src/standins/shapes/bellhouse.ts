import { createHash } from "node:crypto";
import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call } from "../call";
import { deliverWhole } from "../delivery";
import { readJson, sendJson } from "../json";
import { type Asked, asPlanned, type Model, numberIn, speak, stopWordsIn } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "bell-plain": {
    window: 4_096,
    price: { input: 0.2, output: 0.8 },
    pace: { firstMs: 250, tokensPerSecond: 120 },
    isBrief: true,
    thinks: false,
    isCareless: false,
  },
};

/** Where a bell rings, and the tokens that it may ring there. */
const houses: Record<string, number> = { trial: 60, production: Number.POSITIVE_INFINITY };

/** The made-up id and secret that Bellhouse gives a pass for, unless it is started with others. */
export const sampleId = "ringer-08-sample";
export const sampleSecret = "bell-7a10-sample";

/**
 * Bellhouse: one JSON answer and no stream, all of the conversation as one text, a pass that is
 * fetched with an id and a secret, and bells that are refused until they are hung.
 * @param options passSeconds is how long a pass is good for, isHung whether its bells hang from the start
 */
export function bellhouse({ id = sampleId, secret = sampleSecret, passSeconds = 600, isHung = false } = {}): StandIn {
  const hung = new Set(isHung ? Object.keys(models) : []);
  const passes = new Map<string, number>();
  return {
    about: {
      name: "Bellhouse",
      profile: "one-text",
      credential: {
        kind: "token",
        url: "/bells/token",
        send: "json",
        body: { ringer: "<id>", word: "<secret>" },
        id: { variable: "BELLHOUSE_ID" },
        secret: { variable: "BELLHOUSE_SECRET" },
        token: "$.pass",
        expires: "$.goodForSeconds",
      },
      models: listed(models),
    },
    samples: { BELLHOUSE_ID: id, BELLHOUSE_SECRET: secret },
    failure: (status, why) => ({ crack: { code: `planned ${status}`, why } }),
    async answer(request, response, call) {
      const path = new URL(request.url ?? "/", "http://bellhouse").pathname;
      if (request.method === "POST" && path === "/bells/token") {
        const { ringer, word } = ((await readJson(request)) ?? {}) as Record<string, unknown>;
        if (ringer !== id || word !== secret)
          return crack(response, 401, "stranger", "This ringer is not known, or the word is wrong.");
        const pass = `pass-${createHash("sha256").update(`${secret} ${passes.size}`).digest("hex").slice(0, 24)}`;
        passes.set(pass, Date.now() + passSeconds * 1000);
        return sendJson(response, 200, { pass, goodForSeconds: passSeconds });
      }
      const until = passes.get(String(request.headers["bell-pass"]));
      if (until === undefined)
        return crack(response, 401, "stranger", "bell-pass is missing or was not given out here.");
      if (until < Date.now()) return crack(response, 401, "late", "The pass has run out; fetch another.");
      if (request.method === "GET" && path === "/bells")
        return sendJson(response, 200, { bells: Object.keys(models).map((bell) => ({ bell, hung: hung.has(bell) })) });
      const [, bell] = /^\/bells\/([^/]+)\/up$/.exec(path) ?? [];
      if (bell && (request.method === "POST" || request.method === "DELETE")) {
        if (!models[bell]) return crack(response, 404, "no bell", `There is no bell ${bell}.`);
        if (request.method === "POST") hung.add(bell);
        else hung.delete(bell);
        return sendJson(response, 200, { bell, hung: hung.has(bell) });
      }
      if (request.method === "POST" && path === "/bells/ring") return reply(request, response, call, hung);
      crack(response, 404, "no door", `No door at ${request.method} ${path}.`);
    },
  };
}

async function reply(request: IncomingMessage, response: ServerResponse, call: Call, hung: Set<string>): Promise<void> {
  const asked = bodyFrom(await readJson(request));
  if (typeof asked === "string") return crack(response, 400, "muffled", asked);
  const house = String(request.headers["bell-house"] ?? "production");
  if (!Object.hasOwn(houses, house))
    return crack(
      response,
      400,
      "no house",
      `There is no house ${house}: bell-house is ${Object.keys(houses).join(" or ")}.`,
    );
  const model = models[asked.bell];
  if (!model)
    return crack(response, 404, "no bell", `There is no bell ${asked.bell}, only ${Object.keys(models).join(", ")}.`);
  if (!hung.has(asked.bell))
    return crack(response, 409, "not hung", `${asked.bell} is not hung yet: POST /bells/${asked.bell}/up hangs it.`);
  const input = tokensOf(asked.input).length;
  if (input + (asked.maxOutput ?? 1) > model.window)
    return crack(response, 413, "too heavy", `${asked.bell} carries ${model.window}: ${input} came in.`);
  const maxOutput = Math.min(asked.maxOutput ?? Number.POSITIVE_INFINITY, houses[house] as number);
  const isBounded = Number.isFinite(maxOutput);
  const speech = speak({ ...asked, maxOutput: isBounded ? maxOutput : undefined }, asPlanned(model, call), tokensOf);
  const text = speech.text.join("");
  call.begin({ model: asked.bell, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const tolls = call.fault?.usage === "wrong" ? [1, 2] : { heard: input, rung: speech.text.length };
  const ended = { itself: "still", limit: "cut short", "stop word": "hushed", tools: "still" }[speech.ended];
  await deliverWhole(response, call, call.pace ?? model.pace, speech.text, text, {
    peal: { text: call.fault?.isSilent ? "" : text, ended, bell: `${asked.bell} of ${house}` },
    ...(call.fault?.usage === "none" ? {} : { tolls }),
  });
}

interface Body extends Asked {
  bell: string;
  input: string;
}

const speakers = { Rule: "system", Guest: "visitor", Host: "app" } as const;

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "the body is no JSON object";
  const { bell, input, pull = {} } = body as Record<string, unknown>;
  if (typeof bell !== "string") return "bell is missing";
  if (typeof input !== "string" || input.trim() === "") return "input is empty";
  const said: Asked["said"] = [];
  const lines = input.split(/^(Rule|Guest|Host): ?/m);
  for (let at = 1; at < lines.length; at += 2) {
    const text = (lines[at + 1] ?? "").replace(/\n$/, "");
    if (text.trim() !== "") said.push({ by: speakers[lines[at] as keyof typeof speakers], text });
  }
  if (said.length === 0) said.push({ by: "visitor", text: input });
  const { warmth, share, top, length, hush, seed } = (pull ?? {}) as Record<string, unknown>;
  if (length !== undefined && (!Number.isInteger(length) || (length as number) < 1))
    return "pull.length is a number from 1";
  return {
    bell,
    input,
    said,
    maxOutput: length as number | undefined,
    stop: stopWordsIn(hush),
    seed: numberIn(seed),
    freedom: { temperature: numberIn(warmth), topP: numberIn(share), topK: numberIn(top) },
  };
}

/** A text in Bellhouse's tokens: words of up to eight letters, runs of spaces, other signs in pairs. */
export function tokensOf(text: string): string[] {
  return text.match(/[\p{L}\p{N}]{1,8}|\s+|[^\p{L}\p{N}\s]{1,2}/gu) ?? [];
}

function crack(response: ServerResponse, status: number, code: string, why: string): void {
  sendJson(response, status, { crack: { code, why } });
}
