import type { IncomingMessage, ServerResponse } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import oneText from "@/core/wire/profiles/one-text.json";
import { providerAt, wireProvider } from "../providers/wiring";
import { testFolder } from "../test/folder";
import { bodyOf, TestProvider } from "../test/provider";
import { preflight } from "./preflight";
import { probe } from "./probe";

let { home, remove } = testFolder();
remove();
let server: TestProvider | undefined;
beforeEach(() => {
  ({ home, remove } = testFolder());
  process.env.TEST_KEY = "right-key";
});
afterEach(() => {
  server?.stop();
  delete process.env.TEST_KEY;
  remove();
});

interface Asked {
  model: string;
  messages: { role: string; content: string }[];
  stream: boolean;
  max_tokens?: number;
}

/** A model API that does everything as it should, except for what a test has it do otherwise. */
function api(
  otherwise: { answer?: (asked: Asked) => string; finish?: string; usage?: boolean; anyKey?: boolean } = {},
) {
  return async (request: IncomingMessage, response: ServerResponse) => {
    if (!otherwise.anyKey && request.headers.authorization !== "Bearer right-key")
      return response.writeHead(401).end('{"error":{"message":"no such key"}}');
    if (request.method === "GET") return response.end('{"data":[{"id":"m"},{"id":"n"}]}');
    const asked = JSON.parse(await bodyOf(request)) as Asked;
    if (asked.model !== "m")
      return response.writeHead(404).end('{"error":{"message":"no such model","code":"model_not_found"}}');
    const prompt = asked.messages[0]?.role === "system" ? asked.messages[0].content : "";
    const isCut = (asked.max_tokens ?? 1000) < 20;
    const usual = `${JSON.stringify(asked.messages).includes("Odile") ? "Odile, " : ""}the days are many. ${/"(\w+)"/.exec(prompt)?.[1] ?? ""}`;
    const text = otherwise.answer?.(asked) ?? usual;
    const finish = isCut ? (otherwise.finish ?? "length") : "stop";
    const usage = otherwise.usage === false ? {} : { usage: { prompt_tokens: 5, completion_tokens: 6 } };
    if (!asked.stream) {
      response.writeHead(200, { "content-type": "application/json" });
      return response.end(
        JSON.stringify({ choices: [{ index: 0, message: { content: text }, finish_reason: finish }], ...usage }),
      );
    }
    response.writeHead(200, { "content-type": "text/event-stream" });
    for (const word of text.split(" ")) {
      response.write(`data: ${JSON.stringify({ choices: [{ delta: { content: `${word} ` } }] })}\n\n`);
      await new Promise(setImmediate);
    }
    response.end(
      `data: ${JSON.stringify({ choices: [{ delta: {}, finish_reason: finish }], ...usage })}\n\ndata: [DONE]\n\n`,
    );
  };
}

async function probed(answer: ReturnType<typeof api>, model = "m") {
  server = await TestProvider.start((request, response) => void answer(request, response));
  const price = { input: 0, output: 0, currency: "EUR" };
  const credential = { kind: "key" as const, secret: { variable: "TEST_KEY" } };
  const provider = wireProvider(home, {
    name: "Test",
    address: server.address,
    profile: "chat-completions",
    credential,
    models: [{ name: "m", window: 1000, price }],
  });
  const steps = [];
  for await (const step of probe(home, provider, model, new AbortController().signal)) steps.push(step);
  return { provider, steps, bad: steps.filter(({ outcome }) => outcome === "bad") };
}

describe("a probe", () => {
  it("finds nothing wrong with an API that does as it should, and its report is kept", async () => {
    const { provider, steps, bad } = await probed(api());
    expect(bad).toEqual([]);
    expect(steps.map(({ step }) => step)).toEqual([
      "answers",
      "key accepted",
      "lists models",
      "switched on",
      "whole reply",
      "streams",
      "heeds prompt",
      "memory",
      "usage",
      "cut seen",
      "window used",
      "wrong key",
      "wrong model",
    ]);
    expect(providerAt(home, provider.id).probe).toMatchObject({ model: "m", steps });
  });

  it.each([
    [
      "a limit that ends like a complete reply",
      { finish: "stop" },
      "cut seen",
      /ended as "complete": map its finish word/,
    ],
    ["a prompt that does not arrive", { answer: (): string => "the days are many, Odile" }, "heeds prompt", /<system>/],
    [
      "messages that do not arrive",
      { answer: (): string => "the days are many cormorant" },
      "memory",
      /the messages in the profile's body/,
    ],
    ["no usage", { usage: false }, "usage", /estimated/],
    ["any key that is taken", { anyKey: true }, "wrong key", /takes any key/],
  ] as const)("names %s, with what to do", async (_what, otherwise, step, advice) => {
    const { bad } = await probed(api(otherwise as never));
    expect(bad).toEqual([expect.objectContaining({ step, advice: expect.stringMatching(advice) })]);
  });

  it("finds that the front of what is sent is cut in silence, and from where on", async () => {
    const forgets = (asked: Asked) => {
      const all = asked.messages.map(({ content }) => content).join(" ");
      return all.slice(-600).includes("Odile") ? "Odile it is cormorant" : "the days are many cormorant";
    };
    const { bad } = await probed(api({ answer: forgets }));
    expect(bad).toEqual([
      expect.objectContaining({
        step: "window used",
        found: "about 5 tokens",
        advice: expect.stringContaining("cuts the front"),
      }),
    ]);
  });

  it("of a model that is not listed says which there are, and leaves out what can't be reached", async () => {
    const { bad, steps } = await probed(api(), "gone");
    expect(bad.find(({ step }) => step === "switched on")?.advice).toContain("There are m, n");
    expect(steps.find(({ step }) => step === "memory")).toMatchObject({ outcome: "left out" });
  });
});

describe("the preflight", () => {
  it("says what is missing before an app can answer, with the next step", async () => {
    const { provider } = await probed(api());
    const content = {
      prompt: "At {{desk}}",
      variables: {},
      provider: provider.slug,
      model: "gone",
      settings: {},
      memory: { kind: "everything" as const },
    };
    const app = home.apps.make("A", content, 1);
    const items = async (change: object) =>
      (await preflight(home, { ...app, draft: { ...content, ...change } })).items.map(
        ({ what, next }) => `${what} ${next}`,
      );
    expect((await items({})).join("\n")).toMatch(/\{\{desk\}\}.*Prompt station.*\n.*no model gone.*Model station/);
    expect(await items({ prompt: "Hello", model: "m" })).toEqual([]);
    const summedUpBy = (model: string, name: string) =>
      items({ prompt: "Hello", model: "m", memory: { kind: "summary", turns: 3, by: { provider: name, model } } });
    expect(await summedUpBy("gone", provider.slug)).toEqual([expect.stringMatching(/no model gone.*Memory station/)]);
    expect(await summedUpBy("m", "gone")).toEqual([
      "The provider that sums up is gone. Choose another model in the Memory station.",
    ]);
    expect(await summedUpBy("m", provider.slug)).toEqual([]);
    const answer = { by: "text", text: "4.00" };
    const tools = [{ name: "fares", description: "What it costs.", parameters: { type: "object" }, answer }];
    expect(await items({ prompt: "Hello", model: "m", tools })).toEqual([]);
    home.providers.change(provider.id, { ...provider, profileText: JSON.stringify(oneText) });
    expect((await items({ prompt: "Hello", model: "m", tools }))[0]).toMatch(/no place for tools.*Model station/);
    home.providers.change(provider.id, provider);
    delete process.env.TEST_KEY;
    expect((await items({ prompt: "Hello", model: "m" }))[0]).toMatch(
      /TEST_KEY, a key of Test, is not set. Add the line TEST_KEY=… to the file .env/,
    );
    process.env.TEST_KEY = "right-key";
    server?.stop();
    expect((await items({ prompt: "Hello", model: "m" }))[0]).toMatch(/could not be reached/);
  });
});
