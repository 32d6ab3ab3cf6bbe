import { createHmac } from "node:crypto";
import type { IncomingMessage, ServerResponse } from "node:http";
import type { Call as Serving } from "../call";
import { deliver, deliverWhole } from "../delivery";
import { type Picture, pictureIn } from "../engine/pictures";
import type { Call, Called, Offered } from "../engine/tools";
import { jsonIn, readText, sendJson } from "../json";
import { type Asked, asPlanned, fragmentsOf, type Model, numberIn, speak, stopWordsIn, tokensOfCalls } from "../speech";
import { listed, type StandIn } from "../standin";

const models: Record<string, Model> = {
  "tide-wide": {
    window: 32_000,
    price: { input: 3, output: 12 },
    pace: { firstMs: 420, tokensPerSecond: 60 },
    isBrief: false,
    thinks: true,
    isCareless: false,
    sees: true,
    draws: true,
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

/** A model that flows only for requests that are sealed: the header `tide-seal` is the HMAC-SHA256 of the body under the pass. */
const sealed = "tide-sealed";
const tides: Record<string, Model> = { ...models, [sealed]: models["tide-neap"] as Model };

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
      models: listed(models, ["tools"]),
    },
    samples: { TIDEGATE_KEY: key },
    failure: (status, tell) => ({ trouble: { no: `P-${status}`, tell } }),
    async answer(request, response, call) {
      const url = new URL(request.url ?? "/", "http://tidegate");
      if (url.searchParams.get("pass") !== key)
        return trouble(response, 403, "T-1", "The pass is missing or not known.");
      if (request.method === "GET" && url.pathname === "/tides")
        return sendJson(response, 200, {
          tides: Object.entries(tides).map(([id, { window }]) => ({ id, depth: window })),
        });
      const isFlow = url.pathname === "/tides/flow";
      if (request.method === "POST" && (isFlow || url.pathname === "/tides/answer"))
        return reply(request, response, call, isFlow, key);
      trouble(response, 404, "T-0", `No gate at ${request.method} ${url.pathname}.`);
    },
  };
}

async function reply(
  request: IncomingMessage,
  response: ServerResponse,
  call: Serving,
  isFlow: boolean,
  key: string,
): Promise<void> {
  const body = await readText(request);
  const asked = bodyFrom(jsonIn(body));
  if (typeof asked === "string") return trouble(response, 400, "T-2", asked);
  const seal = createHmac("sha256", key).update(body).digest("hex");
  if (asked.tide === sealed && request.headers["tide-seal"] !== seal)
    return trouble(response, 200, "T-6", `${sealed} flows for sealed requests alone: tide-seal is missing or broken.`);
  const model = tides[asked.tide];
  // this API answers 200 to whatever it could read, and says inside what is wrong
  if (!model)
    return trouble(response, 200, "T-4", `No tide ${asked.tide}: there are ${Object.keys(models).join(" and ")}.`);
  if (asked.pictures?.length && !model.sees)
    return trouble(response, 200, "T-3", `${asked.tide} has no eyes; tide-wide has.`);
  const { input } = asked;
  if (input + asked.maxOutput > model.window)
    return trouble(
      response,
      200,
      "T-5",
      `The depth of ${asked.tide} is ${model.window}: ${input} came in, and ${asked.maxOutput} are kept free.`,
    );

  const speech = speak(asked, asPlanned(model, call), tokensOf);
  const text = speech.text.join("");
  call.begin({ model: asked.tide, messages: asked.said.map(({ by, text }) => ({ role: by, content: text })), text });
  const written = speech.thought.length + speech.text.length + tokensOfCalls(speech.calls, tokensOf);
  const refs = speech.calls.map((_, at) => `f-${input}-${at}`);
  const spent = (counts: object) => {
    if (call.fault?.usage === "none") return {};
    return { spent: call.fault?.usage === "wrong" ? { read: null, written: "?" } : counts };
  };
  const turned = { itself: "ebb", limit: "brim", "stop word": "mark", tools: "slack" }[speech.ended];
  const drawn = speech.drawing
    ? [{ kind: "sight", sight: { form: "image/png", bytes: speech.drawing.toString("base64") } }]
    : [];
  const links = linksFor(asked.said.at(-1)?.text ?? "");
  const pace = call.pace ?? model.pace;
  if (!isFlow) {
    const parts = [
      ...(model.thinks ? [{ kind: "musing", words: speech.thought.join("") }] : []),
      ...halves(text).map((words) => ({ kind: "words", words })),
      ...drawn,
      ...speech.calls.map(({ name, arguments: given }, at) => ({
        kind: "fetch",
        ref: refs[at],
        what: name,
        given: JSON.stringify(given),
      })),
    ];
    await deliverWhole(response, call, pace, [...speech.thought, ...speech.text], text, {
      parts: call.fault?.isSilent ? [] : parts,
      turned,
      ...links,
      ...spent({ read: input, written, mused: speech.thought.length }),
    });
    return;
  }
  let count = 0;
  const element = (body: object) => {
    count += 1;
    return `${count === 1 ? "[" : ",\n"}${JSON.stringify({ n: count, ...body })}`;
  };
  const fragments = fragmentsOf(speech.calls);
  const said = fragments.length > 0 ? fragments.map((fragment) => fragment.arguments) : speech.text;
  const last = speech.thought.length + said.length + 2;
  const fetched = fragments.map(({ index, name, arguments: given }) => ({
    parts: [{ kind: "fetch", ref: refs[index], ...(name === undefined ? {} : { what: name }), given }],
  }));
  await deliver(response, call, pace, {
    contentType: "application/json; charset=utf-8",
    opening: [element(spent({ read: input }))],
    thought: speech.thought,
    text: said,
    event: (token, isThought) =>
      element(
        isThought
          ? { parts: [{ kind: "musing", words: token }] }
          : (fetched.shift() ?? { parts: halves(token).map((words) => ({ kind: "words", words })) }),
      ),
    closing: () => [
      `,\n${JSON.stringify({ n: last, parts: drawn, turned, ...links, ...spent({ written, mused: speech.thought.length }) })}`,
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
  /** Tokens of what came in. */
  input: number;
}

const voices = { harbour: "system", caller: "visitor", keeper: "app", tender: "tool" } as const;

function bodyFrom(body: unknown): Body | string {
  if (typeof body !== "object" || body === null) return "The body is no JSON object.";
  const { tide, course, nets, trim } = body as {
    tide?: unknown;
    course?: unknown;
    nets?: unknown;
    trim?: Record<string, unknown>;
  };
  if (typeof tide !== "string") return "tide is missing.";
  const ceiling = trim?.ceiling;
  if (!Number.isInteger(ceiling) || (ceiling as number) < 1)
    return "trim.ceiling is missing: say how many tokens may be written.";
  if (!Array.isArray(course) || course.length === 0) return "course is missing or empty.";
  const read = readCourse(course);
  if (typeof read === "string") return read;
  const offered = netsIn(nets);
  if (offered === undefined) return "nets is a list, each with what it is.";
  return {
    tide,
    ...read,
    offered,
    input: read.input + (offered.length > 0 ? tokensOf(JSON.stringify(nets)).length : 0),
    maxOutput: ceiling as number,
    stop: stopWordsIn(trim?.marks),
    seed: numberIn(trim?.seed),
    freedom: { temperature: numberIn(trim?.heat), topP: numberIn(trim?.share), topK: numberIn(trim?.top) },
  };
}

function netsIn(nets: unknown): Offered[] | undefined {
  if (nets === undefined) return [];
  if (!Array.isArray(nets) || nets.length === 0) return undefined;
  const offered = nets.map(({ what, brings, given }) => ({
    name: String(what ?? ""),
    description: String(brings ?? ""),
    parameters: given,
  }));
  return offered.every(({ name }) => name !== "") ? offered : undefined;
}

/** A part of a message as it comes. */
interface Part {
  words?: unknown;
  sight?: { bytes?: unknown };
  fetch?: { ref?: unknown; what?: unknown; given?: unknown };
  fetched?: { ref?: unknown; holds?: unknown };
}

type Course = Required<Pick<Asked, "said" | "made" | "pictures" | "endsWithTools">> & { input: number };

/** Reads the course: voices by turns, and what the keeper wants fetched brought by a tender right after it. */
function readCourse(course: readonly { voice?: unknown; parts?: unknown }[]): Course | string {
  const said: Asked["said"] = [];
  let made: Called[] = [];
  let pictures: Picture[] = [];
  const waiting = new Map<string, Call>();
  let before = "";
  let input = 0;
  for (const [at, { voice, parts: given }] of course.entries()) {
    if (typeof voice !== "string" || !Object.hasOwn(voices, voice))
      return `course[${at}].voice is harbour, caller, keeper or tender.`;
    const by = voices[voice as keyof typeof voices];
    const parts: Part[] = Array.isArray(given) ? given : [];
    const words = parts.map((part) => part?.words ?? "").join("");
    if (words.trim() === "" && !parts.some((part) => part?.sight || part?.fetch || part?.fetched))
      return `course[${at}].parts holds no words.`;
    if (by === "system" && at > 0) return `course[${at}]: the harbour speaks first or not at all.`;
    if (by !== "system" && before === by) return `course[${at}]: the ${voice} spoke just before.`;
    if (by === "app" && (before === "" || before === "system")) return `course[${at}]: the caller speaks first.`;
    if (by !== "tool" && waiting.size > 0) return `course[${at}]: ${[...waiting.keys()].join(", ")} was not fetched.`;
    input += tokensOf(words).length + 4;
    if (by === "visitor") [made, pictures] = [[], []];
    for (const { sight, fetch, fetched } of parts) {
      if (sight) {
        const picture = pictureIn(Buffer.from(String(sight.bytes), "base64"));
        if (!picture) return `course[${at}]: a sight is no picture.`;
        pictures.push(picture);
        input += 40 + Math.ceil((picture.width * picture.height) / 1_200);
      }
      if (fetch) {
        const call = callIn(fetch);
        if (!call) return `course[${at}]: what is given to fetch is no JSON object.`;
        waiting.set(String(fetch.ref), call);
        input += tokensOf(`${call.name} ${String(fetch.given)}`).length + 2;
      }
      if (fetched) {
        const call = waiting.get(String(fetched.ref));
        if (!call) return `course[${at}]: nobody wanted ${String(fetched.ref)} fetched.`;
        waiting.delete(String(fetched.ref));
        made.push({ ...call, result: String(fetched.holds ?? "") });
        input += tokensOf(String(fetched.holds ?? "")).length + 2;
      }
    }
    if (by !== "tool" && (words.trim() !== "" || pictures.length > 0) && !(by === "app" && words === ""))
      said.push({ by, text: words });
    before = by;
  }
  if (waiting.size > 0) return `${[...waiting.keys()].join(", ")} was not fetched.`;
  if (before === "system") return "course holds nothing to answer.";
  return { said, made, pictures, endsWithTools: before === "tool", input };
}

function callIn({ what, given }: NonNullable<Part["fetch"]>): Call | undefined {
  try {
    const value = JSON.parse(String(given));
    return typeof value === "object" && value !== null ? { name: String(what ?? ""), arguments: value } : undefined;
  } catch {
    return undefined;
  }
}

/** A text in Tidegate's tokens: four characters each. */
export function tokensOf(text: string): string[] {
  return text.match(/.{1,4}/gsu) ?? [];
}

function trouble(response: ServerResponse, status: number, no: string, tell: string): void {
  sendJson(response, status, { trouble: { no, tell } });
}

/** Where one can read on, for whoever asks for it. */
const places: [about: RegExp, name: string, at: string][] = [
  [/timetable|boat|runs?\b|\d:\d\d/i, "Timetable of Saltmarsh Ferry", "https://saltmarsh.example/timetable"],
  [/fare|ticket|cost|price|€/i, "Fares and tickets", "https://saltmarsh.example/fares"],
  [/bicycle|luggage|dog/i, "Luggage and bicycles", "https://saltmarsh.example/luggage"],
];

/** Links that go with an answer, where the question asks for sources. */
function linksFor(question: string): { links?: { name: string; at: string }[] } {
  if (!/\b(?:links?|sources?|read (?:more|on|that|it))\b/i.test(question)) return {};
  const fitting = places.filter(([about]) => about.test(question));
  return { links: (fitting.length > 0 ? fitting : places.slice(0, 1)).map(([, name, at]) => ({ name, at })) };
}
