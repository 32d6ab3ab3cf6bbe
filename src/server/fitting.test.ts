import type { IncomingMessage, ServerResponse } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { WireProvider } from "@/contract/providers";
import { piecesOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { fit } from "@/core/wire/fitting/fit";
import type { WrittenProfile } from "@/core/wire/profile-schema";
import { answersToFitting, type Sample, sampleKey, samples } from "@/core/wire/samples/samples";
import { wireProvider } from "./providers/wiring";
import { ask, bench } from "./replies/ask";
import { addTurn, talk } from "./test/conversation";
import { testFolder } from "./test/folder";
import { bodyOf, TestProvider } from "./test/provider";

let { home, remove } = testFolder();
remove();
let server: TestProvider | undefined;
beforeEach(() => {
  ({ home, remove } = testFolder());
  process.env.SAMPLE_KEY = sampleKey;
});
afterEach(() => {
  server?.stop();
  delete process.env.SAMPLE_KEY;
  remove();
});

/** A server that answers a sample's own request with its hand-written bytes, cut at odd places, and refuses any other. */
function serving({ request, contentType, answer }: Sample) {
  return async (incoming: IncomingMessage, response: ServerResponse) => {
    const body = await bodyOf(incoming);
    const wrong: string[] = [];
    if (incoming.method !== request.method) wrong.push(`method ${incoming.method}`);
    if (incoming.url !== request.path) wrong.push(`path ${incoming.url}`);
    for (const [name, value] of Object.entries(request.headers))
      if (incoming.headers[name] !== value) wrong.push(`header ${name}: ${incoming.headers[name]}`);
    if (JSON.stringify(sorted(JSON.parse(body))) !== JSON.stringify(sorted(request.body))) wrong.push(`body ${body}`);
    if (wrong.length > 0) {
      response
        .writeHead(400, { "content-type": "application/json" })
        .end(JSON.stringify({ error: { message: wrong.join("; ") } }));
      return;
    }
    response.writeHead(200, { "content-type": contentType });
    for (let at = 0; at < answer.length; at += 7) {
      response.write(answer.subarray(at, at + 7));
      await new Promise(setImmediate);
    }
    response.end();
  };
}

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, each]) => [name, sorted(each)]),
  );
}

/** Has an app say the canonical conversation through a provider, and gives its last reply. */
async function lastReply(name: string, address: string, profile: WrittenProfile) {
  const credential: WireProvider["credential"] = JSON.stringify(profile).includes("<key>")
    ? { kind: "key", secret: { variable: "SAMPLE_KEY" } }
    : { kind: "none" };
  const model = { name, window: 10_000, price: { input: 1, output: 1, currency: "EUR" } };
  const { slug } = wireProvider(home, {
    name: "Sample",
    address,
    profile: profile as never,
    credential,
    models: [model],
  });
  const content: Content = {
    prompt: "You are the desk of Saltmarsh Ferry.",
    variables: {},
    provider: slug,
    model: name,
    settings: { temperature: 0.7, maxOutput: 800 },
    memory: { kind: "everything" },
  };
  const app = home.apps.make("Desk", content, 1);
  const conversation = talk(home, app.id, 0);
  const first = addTurn(home, conversation, "Does the 8:10 run?");
  const facts = { revision: 1, provider: "Sample", model: name };
  const pieces = piecesOf("Yes, from Mill Quay.");
  home.messages.finishReply({ id: first.id, state: "complete", pieces, reported: null, facts });
  const { reply } = ask(home, app, bench, { message: "On Sunday too?", conversation });
  await home.hub.ended(reply);
  const message = home.messages.message(reply);
  if (message?.role !== "app") throw new Error("There is no reply.");
  return message;
}

function expected({ events }: Sample) {
  const all = (kind: "text" | "thought") =>
    events.map((each) => (each.event === kind && each.take === 0 ? each.data.text : "")).join("");
  const last = events.at(-1);
  const states: Record<string, string> = { length: "cut", complete: "complete", tools: "complete" };
  return {
    text: all("text"),
    thought: all("thought") || undefined,
    state: states[last?.event === "end" ? last.data.reason : ""],
  };
}

describe.each(samples)("an API of the shape $name, served by a server of its own", (sample) => {
  const { name, profile, curl, answer, contentType } = sample;

  const check = async (used: WrittenProfile) => {
    server = await TestProvider.start(serving(sample));
    const message = await lastReply(name, server.address, used);
    const { text, thought, state } = expected(sample);
    expect(message.facts.problem).toBeUndefined();
    expect(message.pieces).toEqual([{ kind: "text", text }]);
    expect({ thought: message.facts.thought, state: message.state }).toEqual({ thought, state });
    const counted = sample.events.find(({ event }) => event === "counts");
    expect(message.facts.usage).toMatchObject(counted ? { ...counted.data, estimated: false } : { estimated: true });
  };

  it("answers in an app with the profile written by hand", () => check(profile));

  it("answers in an app with the profile that fitting proposes", () => {
    const pasted = `HTTP/1.1 200 OK\ncontent-type: ${contentType}\n\n${new TextDecoder().decode(answer)}`;
    const fitted = fit({ request: curl, answer: pasted, answers: answersToFitting(name) });
    if (fitted.kind === "none") throw new Error(fitted.why);
    return check(fitted.fitting.profile);
  });
});
