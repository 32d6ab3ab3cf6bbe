import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { instant } from "./pace";
import { reedbed, sampleKey, tokensOf } from "./shapes/reedbed";
import { serve } from "./standin";

let server: Server;
let address = "";
beforeAll(async () => {
  server = serve(reedbed(), instant);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});
beforeEach(() => steer("DELETE", "fault"));

const hello = { model: "reed-swift", messages: [{ role: "user", content: "Hello" }] };

function complete(body: object, key = sampleKey): Promise<Response> {
  return fetch(`${address}/v1/chat/completions`, {
    method: "POST",
    headers: { authorization: `Bearer ${key}` },
    body: JSON.stringify(body),
  });
}

function steer(method: string, what: string, body?: object): Promise<Response> {
  return fetch(`${address}/standin/${what}`, { method, body: body && JSON.stringify(body) });
}

const errorIn = async (response: Response) => [
  response.status,
  ((await response.json()) as { error: { code: string } }).error.code,
];

describe("Reedbed", () => {
  it("lists its models to whoever has the key", async () => {
    const listed = await fetch(`${address}/v1/models`, { headers: { authorization: `Bearer ${sampleKey}` } });
    expect(await listed.json()).toEqual({ data: [{ id: "reed-swift" }, { id: "reed-deep" }, { id: "reed-embed" }] });
    expect(await errorIn(await fetch(`${address}/v1/models`))).toEqual([401, "invalid_api_key"]);
  });

  it("answers whole, with usage that adds up", async () => {
    const { choices, usage } = await (await complete(hello)).json();
    expect(choices[0].message.content).toMatch(/^(Hello|Good day|Welcome)/);
    expect(usage.total_tokens).toBe(usage.prompt_tokens + usage.completion_tokens);
    expect(usage.completion_tokens).toBe(tokensOf(choices[0].message.content).length);
  });

  it("streams several takes mixed, each text once", async () => {
    const asked = { ...hello, n: 3, messages: [{ role: "user", content: "Tell me a joke" }] };
    const { choices } = await (await complete(asked)).json();
    const wholes = choices.map(({ message }: { message: { content: string } }) => message.content);
    const body = await (await complete({ ...asked, stream: true })).text();
    const takes = ["", "", ""];
    for (const line of body.split("\n")) {
      if (!line.startsWith("data: {")) continue;
      for (const { index, delta } of JSON.parse(line.slice(6)).choices) takes[index] += delta.content ?? "";
    }
    expect(takes).toEqual(wholes);
  });

  it("streams the same text in deltas, with usage only on request, and ends with [DONE]", async () => {
    const whole = (await (await complete(hello)).json()).choices[0].message.content;
    for (const wanted of [true, false]) {
      const body = await (await complete({ ...hello, stream: true, stream_options: { include_usage: wanted } })).text();
      const data = body
        .trim()
        .split("\n\n")
        .map((each) => each.replace(/^data: /, ""));
      const events = data.slice(0, -1).map((each) => JSON.parse(each));
      expect(data.at(-1)).toBe("[DONE]");
      expect(events.map(({ choices }) => choices[0]?.delta.content ?? "").join("")).toBe(whole);
      expect(events.some(({ usage }) => usage !== undefined)).toBe(wanted);
    }
  });

  it("cuts at the output limit and at stop words, and says which", async () => {
    const cut = await (await complete({ ...hello, max_tokens: 2 })).json();
    expect([cut.choices[0].finish_reason, cut.usage.completion_tokens]).toEqual(["length", 2]);
    const story = { model: "reed-swift", messages: [{ role: "user", content: "Tell me a story" }], stop: ["\n"] };
    expect((await (await complete(story)).json()).choices[0].message.content).not.toContain("\n");
  });

  it("goes on from the assistant's words where they stop", async () => {
    const asked = [{ role: "user", content: "Tell me a story" }];
    const whole = (await (await complete({ ...hello, messages: asked })).json()).choices[0].message.content;
    const begun = whole.slice(0, 100);
    const rest = (
      await (await complete({ ...hello, messages: [...asked, { role: "assistant", content: begun }] })).json()
    ).choices[0].message.content;
    expect(begun + rest).toBe(whole);
  });

  it("shows its reasoning apart where the model does", async () => {
    const { choices, usage } = await (await complete({ ...hello, model: "reed-deep" })).json();
    expect(choices[0].message.reasoning).toContain("greeting");
    expect(usage.reasoning_tokens).toBeGreaterThan(0);
  });

  it.each([
    [{ model: "reed-gone", messages: hello.messages }, 404, "model_not_found"],
    [{ model: "reed-swift", messages: [] }, 400, "invalid_request"],
    [{ model: "reed-swift", messages: [...hello.messages, ...hello.messages] }, 400, "invalid_request"],
    [{ model: "reed-swift", messages: [{ role: "assistant", content: "Hi" }] }, 400, "invalid_request"],
    [{ model: "reed-swift", messages: [{ role: "user", content: "" }] }, 400, "invalid_request"],
    [
      { model: "reed-swift", messages: [{ role: "user", content: "boat ".repeat(9000) }] },
      400,
      "context_length_exceeded",
    ],
  ])("refuses a slip with its own style of error", async (body, status, code) => {
    expect(await errorIn(await complete(body))).toEqual([status, code]);
  });
});

describe("vectors", () => {
  const embed = (body: object) =>
    fetch(`${address}/v1/embeddings`, {
      method: "POST",
      headers: { authorization: `Bearer ${sampleKey}` },
      body: JSON.stringify(body),
    });

  it("are made of many texts at once, of length one, alike where the texts are", async () => {
    const input = ["The boat leaves from Mill Quay.", "Boats leaving Mill Quay", "A recipe for pancakes"];
    const { data, usage } = (await (await embed({ model: "reed-embed", input })).json()) as {
      data: { index: number; embedding: number[] }[];
      usage: { prompt_tokens: number };
    };
    const [boat = [], boats = [], pancakes = []] = data.map(({ embedding }) => embedding);
    const dot = (a: number[], b: number[]) => a.reduce((sum, each, at) => sum + each * (b[at] ?? 0), 0);
    expect(data.map(({ index }) => index)).toEqual([0, 1, 2]);
    expect(dot(boat, boat)).toBeCloseTo(1, 4);
    expect(dot(boat, boats)).toBeGreaterThan(dot(boat, pancakes) + 0.2);
    expect(usage.prompt_tokens).toBe(input.reduce((sum, text) => sum + tokensOf(text).length, 0));
  });

  it.each([
    [{ model: "reed-swift", input: ["a"] }, "model_not_found"],
    [{ model: "reed-embed", input: [] }, "invalid_request"],
    [{ model: "reed-embed", input: [""] }, "invalid_request"],
    [{ model: "reed-embed", input: Array.from({ length: 300 }, () => "a") }, "invalid_request"],
    [{ model: "reed-embed", input: ["boat ".repeat(3_000)] }, "context_length_exceeded"],
  ])("are refused where they can't be made: %#", async (body, code) => {
    expect((await errorIn(await embed(body)))[1]).toBe(code);
  });
});

describe("fault plans", () => {
  it("count for so many calls, and then no more", async () => {
    await steer("PUT", "fault", { fault: "status", status: 429, retryAfter: 2, calls: 2 });
    const statuses = [];
    for (let call = 0; call < 3; call++) statuses.push((await complete(hello)).status);
    expect(statuses).toEqual([429, 429, 200]);
  });

  it("are refused with the reason where they are none", async () => {
    const refused = await steer("PUT", "fault", { fault: "stalled" });
    expect([refused.status, await refused.text()]).toEqual([
      400,
      expect.stringContaining('needs a number in \\"after\\"'),
    ]);
    expect((await steer("PUT", "fault", { fault: "gremlins" })).status).toBe(400);
  });

  it.each([
    ["no-end", /^(?!.*\[DONE\])/s],
    ["empty", /^(?!.*"content":"\w).*\[DONE\]/s],
    ["held-back", /\[DONE\]/],
  ])("%s does what it says to the stream", async (fault, shape) => {
    await steer("PUT", "fault", { fault });
    expect(await (await complete({ ...hello, stream: true })).text()).toMatch(shape);
  });

  it("broken-json breaks off in the middle of an event", async () => {
    await steer("PUT", "fault", { fault: "broken-json", after: 1 });
    const last = (await (await complete({ ...hello, stream: true })).text()).trim().split("\n\n").at(-1) ?? "";
    expect(() => JSON.parse(last.replace("data: ", ""))).toThrow();
  });

  it("notes what came in, and what was said of what was planned", async () => {
    await complete({ ...hello, stream: true }).then((response) => response.text());
    const calls = (await (await steer("GET", "calls")).json()) as { messages: unknown; text: string; said: string }[];
    expect(calls.at(-1)).toMatchObject({ messages: hello.messages });
    expect(calls.at(-1)?.said).toBe(calls.at(-1)?.text);
    await steer("DELETE", "calls");
    expect(await (await steer("GET", "calls")).json()).toEqual([]);
  });
});
