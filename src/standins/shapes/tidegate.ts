import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { readJson, sendJson } from "../json";
import { type Asked, type Model, numberIn, speak, stopWordsIn } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "tide-wide": {
    window: 32_000,
    price: { input: 3, output: 12 },
    pace: { firstMs: 420, tokensPerSecond: 60 },
    isBrief: false,
    thinks: true,
    isCareless: false,
  },
  "tide-neap": {
    window: 8_000,
    price: { input: 0.5, output: 1.5 },
    pace: { firstMs: 180, tokensPerSecond: 110 },
    isBrief: true,
    thinks: false,
    isCareless: false,
  },
};

/** The made-up key that Tidegate accepts unless it is started with another. */
export const sampleKey = "tide-33ce-sample";

/**
 * Tidegate: one JSON array that grows, text in pieces inside lists, other role names, a required
 * output limit, usage split over the first and the last element, and errors inside of a 200.
 */
export function tidegate(key = sampleKey): StandIn {
  return {
    about: {
      name: "Tidegate",
      profile: "growing-array",
      credential: { kind: "key", secret: { variable: "TIDEGATE_KEY" } },
      models: listed(models),
    },
    samples: { TIDEGATE_KEY: key },
    failure: (status, tell) => ({ trouble: { no: `P-${status}`, tell } }),
    async answer(request, response, call) {
      const url = new URL(request.url ?? "/", "http://tidegate");
      if (url.searchParams.get("pass") !== key)
        return trouble(response, 403, "T-1", "The pass is missing or not known.");
      if (request.method === "GET" && url.pathname === "/tides")
        return sendJson(response, 200, {
          tides: Object.entries(models).map(([id, { window }]) => ({ id, depth: window })),
        });
      const isFlow = url.pathname === "/tides/flow";
      if (request.method === "POST" && (isFlow || url.pathname === "/tides/answer"))
        return reply(request, response, call, isFlow);
      trouble(response, 404, "T-0", `No gate at ${request.method} ${url.pathname}.`);
    },
  };
}

async function reply(request: IncomingMessage, response: ServerResponse, call: Call, isFlow: boolean): Promise<void> {
  const asked = bodyFrom(await readJson(request));
  if (typeof asked === "string") return trouble(response, 400, "T-2", asked);
  const model = models[asked.tide];
  // this API answers 200 to whatever it could read, and says inside what is wrong
  if (!model)
    return trouble(response, 200, "T-4", `No tide ${asked.tide}: there are ${Object.keys(models).join(" and ")}.`);
  const input = asked.said.reduce((sum, { text }) => sum + tokensOf(text).length + 4, 0);
  if (input + asked.maxOutput > model.window)
    return trouble(
      response,
      200,
      "T-5",
      `The depth of ${asked.tide} is ${model.window}: ${input} came in, and ${asked.maxOutput} are kept free.`,
    );

  const speech = speak(asked, model, tokensOf);
  const text = speech.text.join("");
  call.begin({ model: asked.tide, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const written = speech.thought.length + speech.text.length;
  const spent = (counts: object) => {
    if (call.fault?.usage === "none") return {};
    return { spent: call.fault?.usage === "wrong" ? { read: null, written: "?" } : counts };
  };
  const turned = { itself: "ebb", limit: "brim", "stop word": "mark" }[speech.ended];
  const pace = call.pace ?? model.pace;
  if (!isFlow) {
    const parts = [
      ...(model.thinks ? [{ kind: "musing", words: speech.thought.join("") }] : []),
      ...halves(text).map((words) => ({ kind: "words", words })),
    ];
    await deliverWhole(response, call, pace, [...speech.thought, ...speech.text], text, {
      parts: call.fault?.isSilent ? [] : parts,
      turned,
      ...spent({ read: input, written, mused: speech.thought.length }),
    });
    return;
  }
  let count = 0;
  const element = (body: object) => {
    count += 1;
    return `${count === 1 ? "[" : ",\n"}${JSON.stringify({ n: count, ...body })}`;
  };
  const last = speech.thought.length + speech.text.length + 2;
  await deliver(response, call, pace, {
    contentType: "application/json; charset=utf-8",
    opening: [element(spent({ read: input }))],
    thought: speech.thought,
    text: speech.text,
    event: (token, isThought) =>
      element({
        parts: isThought
          ? [{ kind: "musing", words: token }]
          : halves(token).map((words) => ({ kind: "words", words })),
      }),
    closing: () => [
      `,\n${JSON.stringify({ n: last, parts: [], turned, ...spent({ written, mused: speech.thought.length }) })}`,
      "]\n",
    ],
    ends: 2,
    broken: ',\n{"parts": [{"kind"}]}',
  });
}

/** A text in two pieces, as this API likes to send them. */
function halves(text: string): string[] {
  const characters = [...text];
  const middle = Math.ceil(characters.length / 2);
  return [characters.slice(0, middle).join(""), characters.slice(middle).join("")].filter((part) => part !== "");
}

interface Body extends Asked {
  tide: string;
  maxOutput: number;
}

const voices = { harbour: "system", caller: "visitor", keeper: "app" } as const;

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "The body is no JSON object.";
  const { tide, course, trim } = body as { tide?: unknown; course?: unknown; trim?: Record<string, unknown> };
  if (typeof tide !== "string") return "tide is missing.";
  const ceiling = trim?.ceiling;
  if (!Number.isInteger(ceiling) || (ceiling as number) < 1)
    return "trim.ceiling is missing: say how many tokens may be written.";
  if (!Array.isArray(course) || course.length === 0) return "course is missing or empty.";
  const said: Asked["said"] = [];
  for (const [at, { voice, parts }] of course.entries()) {
    if (!Object.hasOwn(voices, voice)) return `course[${at}].voice is harbour, caller or keeper.`;
    const words = Array.isArray(parts) ? parts.map((part) => part?.words ?? "").join("") : "";
    if (words.trim() === "") return `course[${at}].parts holds no words.`;
    const by = voices[voice as keyof typeof voices];
    if (by === "system" && at > 0) return `course[${at}]: the harbour speaks first or not at all.`;
    if (by !== "system" && said.at(-1)?.by === by) return `course[${at}]: the ${voice} spoke just before.`;
    said.push({ by, text: words });
  }
  if (said.at(-1)?.by === "system") return "course holds nothing to answer.";
  return {
    tide,
    said,
    maxOutput: ceiling as number,
    stop: stopWordsIn(trim?.marks),
    seed: numberIn(trim?.seed),
    freedom: { temperature: numberIn(trim?.heat), topP: numberIn(trim?.share), topK: numberIn(trim?.top) },
  };
}

/** A text in Tidegate's tokens: four characters each. */
export function tokensOf(text: string): string[] {
  return text.match(/.{1,4}/gsu) ?? [];
}

function trouble(response: ServerResponse, status: number, no: string, tell: string): void {
  sendJson(response, status, { trouble: { no, tell } });
}
