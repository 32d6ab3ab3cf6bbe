import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { readJson, sendJson } from "../json";
import { type Asked, type Model, numberIn, speak, stopWordsIn } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "pan-clear": {
    window: 12_000,
    price: { input: 1.8, output: 7.2 },
    pace: { firstMs: 300, tokensPerSecond: 44 },
    isBrief: false,
    thinks: true,
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

/** The made-up key that Saltpan accepts unless it is started with another. */
export const sampleKey = "salt-91bd-sample";

/**
 * Saltpan: named events that repeat the whole text so far, the system prompt in a field of its own,
 * the model in the path, and guest and host speaking by turns.
 */
export function saltpan(key = sampleKey): StandIn {
  return {
    about: {
      name: "Saltpan",
      profile: "named-events",
      credential: { kind: "key", secret: { variable: "SALTPAN_KEY" } },
      models: listed(models),
    },
    samples: { SALTPAN_KEY: key },
    failure: (status, words) => ({ fault: { sort: `planned-${status}`, words } }),
    async answer(request, response, call) {
      if (request.headers["x-pan-key"] !== key)
        return refuse(response, 401, "no-entry", "x-pan-key is missing or not one of ours.");
      const path = new URL(request.url ?? "/", "http://saltpan").pathname;
      if (request.method === "GET" && path === "/models")
        return sendJson(response, 200, {
          models: Object.entries(models).map(([called, { window }]) => ({ called, holds: window })),
        });
      const [, name] = /^\/models\/([^/]+)\/speak$/.exec(path) ?? [];
      if (request.method === "POST" && name) return reply(request, response, call, decodeURIComponent(name));
      refuse(response, 404, "nowhere", `${request.method} ${path} leads nowhere.`);
    },
  };
}

interface Body extends Asked {
  live: boolean;
}

async function reply(request: IncomingMessage, response: ServerResponse, call: Call, name: string): Promise<void> {
  const asked = bodyFrom(await readJson(request));
  if (typeof asked === "string") return refuse(response, 422, "not-understood", asked);
  const model = models[name];
  if (!model)
    return refuse(
      response,
      404,
      "no-such-model",
      `${name} is not in the pans; ${Object.keys(models).join(" and ")} are.`,
    );
  const input = asked.said.reduce((sum, { text }) => sum + tokensOf(text).length + 2, 0);
  if (input + (asked.maxOutput ?? 1) > model.window)
    return refuse(
      response,
      413,
      "too-much",
      `${name} holds ${model.window}; ${input} came in and ${asked.maxOutput ?? 1} are to come out.`,
    );

  const speech = speak(asked, model, tokensOf);
  const text = speech.text.join("");
  call.begin({ model: name, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const tokens = speech.thought.length + speech.text.length;
  const counted = (counts: object) => {
    if (call.fault?.usage === "none") return {};
    return { counted: call.fault?.usage === "wrong" ? { in: "plenty", out: -3 } : counts };
  };
  const because = { itself: "done", limit: "longest", "stop word": "halted" }[speech.ended];
  const pace = call.pace ?? model.pace;
  const isEmpty = call.fault?.isSilent ?? false;
  if (!asked.live) {
    await deliverWhole(response, call, pace, [...speech.thought, ...speech.text], text, {
      ...(isEmpty ? {} : { said: text, ...(model.thinks ? { mused: speech.thought.join("") } : {}) }),
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
    text: speech.text,
    event(token, isThought) {
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
  const { manner, talk, dials = {}, live } = body as Record<string, unknown>;
  if (!Array.isArray(talk) || talk.length === 0) return "talk is missing or empty";
  for (const [at, each] of talk.entries()) {
    const turn = at % 2 === 0 ? "guest" : "host";
    if (each?.by !== turn) return `talk[${at}].by: guest and host speak by turns, and here it is the ${turn}'s`;
    if (typeof each.words !== "string" || each.words.trim() === "") return `talk[${at}].words says nothing`;
  }
  if (talk.length % 2 === 0) return "talk ends with the host; the guest has to have the last word";
  if (typeof dials !== "object" || dials === null) return "dials is no object";
  const { warmth, breadth, pick, longest, halt, seed } = dials as Record<string, unknown>;
  if (longest !== undefined && (!Number.isInteger(longest) || (longest as number) < 1))
    return "dials.longest is a number from 1";
  return {
    said: [
      ...(typeof manner === "string" && manner !== "" ? [{ by: "system" as const, text: manner }] : []),
      ...talk.map(({ by, words }) => ({ by: by === "guest" ? ("visitor" as const) : ("app" as const), text: words })),
    ],
    live: live === true,
    maxOutput: longest as number | undefined,
    stop: stopWordsIn(halt),
    seed: numberIn(seed),
    freedom: { temperature: numberIn(warmth), topP: numberIn(breadth), topK: numberIn(pick) },
  };
}

/** A text in Saltpan's tokens: whole words with the space before them, figures by threes, signs with the space before them. */
export function tokensOf(text: string): string[] {
  return text.match(/\s?\p{L}+|\s?\p{N}{1,3}|\s?[^\p{L}\p{N}\s]|\s+/gu) ?? [];
}

function refuse(response: ServerResponse, status: number, sort: string, words: string): void {
  sendJson(response, status, { fault: { sort, words } });
}
