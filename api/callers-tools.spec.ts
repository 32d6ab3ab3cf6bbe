import type { NumberedEvent } from "@/core/reply/events";
import { openTalk } from "@/module/talk";
import { eventsOf, expect, noLimits, test, type World } from "../e2e/fixtures";

const tides = {
  name: "tide_at",
  description: "The tide at a place",
  parameters: { type: "object", properties: { place: { type: "string" } }, required: ["place"] },
};
const question = "What is the tide at Brindle, and the tide at Far Skerry?";
const content = { model: "reed-deep", together: 1 };

/** A message of the shape that most model servers share, as its clients have it. */
interface Said {
  role: string;
  content: string | null;
  tool_calls?: { id: string; type: "function"; function: { name: string; arguments: string } }[];
  tool_call_id?: string;
}

const asked: Said = { role: "user", content: question };
const tools = [{ type: "function", function: tides }];
const answered = (calls: Said["tool_calls"] = [], high = "high"): Said[] =>
  calls.map(({ id, function: of }) => ({
    role: "tool",
    tool_call_id: id,
    content: `${high} at ${(JSON.parse(of.arguments) as { place: string }).place}`,
  }));

/** What a client of that shape does with one call of it, whole or streamed: the message, and why it ends. */
async function completed(
  world: World,
  slug: string,
  body: object,
  visitor = "ada",
): Promise<{ said: Said; why: string }> {
  const response = await fetch(`${world.address}/api/apps/${slug}/v1/chat/completions`, {
    method: "POST",
    headers: { "content-type": "application/json", "finch-visitor": visitor },
    body: JSON.stringify(body),
  });
  const text = await response.text();
  if (response.status !== 200) throw new Error(`${response.status} ${text}`);
  if (!("stream" in body)) {
    const [choice] = JSON.parse(text).choices;
    return { said: choice.message, why: choice.finish_reason };
  }
  const lines = text.split("\n\n").filter((line) => line.startsWith("data: "));
  expect(lines.pop()).toBe("data: [DONE]");
  const said: Said & { tool_calls: NonNullable<Said["tool_calls"]> } = { role: "", content: "", tool_calls: [] };
  let why = "";
  for (const line of lines) {
    const { choices, error } = JSON.parse(line.slice(6));
    if (error) throw new Error(JSON.stringify(error));
    const [{ delta, finish_reason }] = choices;
    said.role = delta.role ?? said.role;
    said.content += delta.content ?? "";
    for (const { index, id, type, function: of } of delta.tool_calls ?? []) {
      said.tool_calls[index] ??= { id, type, function: { name: of.name, arguments: "" } };
      (said.tool_calls[index] as (typeof said.tool_calls)[0]).function.arguments += of.arguments;
    }
    why = finish_reason ?? why;
  }
  return { said, why };
}

for (const [how, more] of [
  ["whole", {}],
  ["streamed", { stream: true }],
] as const)
  test(`a client of the common shape answers the calls of its own tools, ${how}, and talks on`, async ({ world }) => {
    const slug = await world.makeApp(`Own tools ${how}`, content, { limits: noLimits });
    const first = await completed(world, slug, { messages: [asked], tools, ...more });
    expect(first.why).toBe("tool_calls");
    const calls = first.said.tool_calls ?? [];
    expect(first.said.role).toBe("assistant");
    const history = [asked, first.said, ...answered(calls)];
    let next = await completed(world, slug, { messages: history, tools, ...more });
    // what one place has may change what is asked of the other, so that it is asked for in a second round
    let rounds = 1;
    while (next.why === "tool_calls") {
      rounds += 1;
      history.push(next.said, ...answered(next.said.tool_calls));
      next = await completed(world, slug, { messages: history, tools, ...more });
    }
    expect(rounds).toBe(2);
    expect(next.why).toBe("stop");
    expect(next.said.content).toContain("high at Brindle");
    expect(next.said.content).toContain("high at Far Skerry");
    // all of it is one reply, and one conversation, which the next message goes on with
    const later = { role: "user", content: "Thank you." };
    await completed(world, slug, { messages: [...history, next.said, later], tools, ...more });
    const { conversations } = await world.bench<{ conversations: { id: string }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    expect(conversations).toHaveLength(1);
  });

test("answers that nobody waits for any more are gone on from as they stand", async ({ world }) => {
  const slug = await world.makeApp("Late answers", content, { limits: noLimits });
  const calls = [
    { id: "call_a", type: "function" as const, function: { name: "tide_at", arguments: '{"place":"Brindle"}' } },
  ];
  const messages = [
    { role: "user", content: "What is the tide at Brindle?" },
    { role: "assistant", content: null, tool_calls: calls },
    ...answered(calls, "low"),
  ];
  for (const more of [{}, { stream: true }]) {
    const { said, why } = await completed(world, slug, { messages, tools, ...more });
    expect([why, said.content]).toEqual(["stop", expect.stringContaining("low at Brindle")]);
  }
  // the same call once more joins the reply that goes on already, and asks for no other
  await world.forgetCalls();
  const first = await completed(world, slug, { messages: [messages[0]], tools });
  const history = [messages[0], first.said, ...answered(first.said.tool_calls)];
  const once = await completed(world, slug, { messages: history, tools });
  const made = (await world.calls()).length;
  expect((await completed(world, slug, { messages: history, tools })).said.content).toBe(once.said.content);
  expect(await world.calls()).toHaveLength(made);
});

test("a choice of tools is heeded: none, one in any case, this one, one at a time", async ({ world }) => {
  const slug = await world.makeApp("Choosing", content, { limits: noLimits });
  const plain = { messages: [{ role: "user", content: "Good morning!" }], tools };
  expect((await completed(world, slug, { ...plain, tool_choice: "none" })).why).toBe("stop");
  expect((await completed(world, slug, { messages: [asked], tools, tool_choice: "none" })).why).toBe("stop");
  expect((await completed(world, slug, { ...plain, tool_choice: "required" })).why).toBe("tool_calls");
  const named = { type: "function", function: { name: "tide_at" } };
  expect((await completed(world, slug, { ...plain, tool_choice: named })).why).toBe("tool_calls");
  const several = [
    ...tools,
    { type: "function", function: { ...tides, name: "tide_of", description: "Tide, once more" } },
  ];
  const two = await completed(world, slug, { messages: [asked], tools: several });
  expect(two.said.tool_calls).toHaveLength(2);
  const one = await completed(world, slug, { messages: [asked], tools: several, parallel_tool_calls: false });
  expect(one.said.tool_calls).toHaveLength(1);
});

test("calls are refused by name that can't be heeded", async ({ world }) => {
  const slug = await world.makeApp("Refusing tools", content, { limits: noLimits });
  const closed = await world.makeApp("No tools here", content, { limits: noLimits, brings: [] });
  const refused = async (body: object, at = slug) => {
    const response = await fetch(`${world.address}/api/apps/${at}/v1/chat/completions`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify(body),
    });
    const { error } = await response.json();
    return [response.status, error.param, error.message];
  };
  const call = { id: "x", type: "function", function: { name: "tide_at", arguments: "{}" } };
  expect(await refused({ messages: [asked], tools }, closed)).toEqual([
    403,
    null,
    expect.stringContaining("no tools along"),
  ]);
  expect(await refused({ messages: [asked], tools: [...tools, ...tools] })).toEqual([
    400,
    null,
    expect.stringContaining("two tools of the name tide_at"),
  ]);
  const bad = [{ type: "function", function: { name: "a b" } }];
  expect(await refused({ messages: [asked], tools: bad })).toEqual([400, "tools[0].function.name", expect.anything()]);
  expect(await refused({ messages: [asked], tool_choice: "required" })).toEqual([
    400,
    null,
    expect.stringContaining("there is none"),
  ]);
  const open = [asked, { role: "assistant", content: null, tool_calls: [call] }];
  expect(await refused({ messages: [...open, { role: "user", content: "And?" }], tools })).toEqual([
    400,
    "messages",
    expect.stringContaining("before the call x was answered"),
  ]);
  expect(await refused({ messages: [...open, { role: "tool", tool_call_id: "y", content: "" }], tools })).toEqual([
    400,
    "messages[2].tool_call_id",
    expect.anything(),
  ]);
});

/** Asks over our own endpoints. */
const call = (world: World, path: string, init: RequestInit = {}, visitor = "ada") =>
  fetch(`${world.address}/api/apps/${path}`, { ...init, headers: { "finch-visitor": visitor, ...init.headers } });

test("over the endpoints a caller answers its own tools: asked for the whole answer, and as it streams", async ({
  world,
}) => {
  const slug = await world.makeApp("Brought along", content, { limits: noLimits, shows: [] });
  const body = JSON.stringify({ message: "What is the tide at Brindle?", tools: [tides] });
  const first = await call(world, `${slug}/replies`, { method: "POST", body });
  expect(first.status).toBe(202);
  const waiting = await first.json();
  expect(waiting).toMatchObject({
    form: "calls",
    calls: [{ name: "tide_at", arguments: { place: "Brindle" }, waitsFor: "caller" }],
    next: expect.stringContaining(`/calls/${waiting.calls[0].call}`),
  });
  const path = `${slug}/replies/${waiting.reply}`;
  expect((await (await call(world, path)).json()).calls).toEqual(waiting.calls);
  const answer = { method: "POST", body: JSON.stringify({ answer: "low at Brindle" }) };
  expect((await call(world, `${path}/calls/${waiting.calls[0].call}`, answer, "bea")).status).toBe(404);
  expect((await call(world, `${path}/calls/${waiting.calls[0].call}`, answer)).status).toBe(204);
  const ended = await call(world, path, { headers: { prefer: "wait=30" } });
  expect(ended.headers.get("preference-applied")).toBe("wait=30");
  expect(await ended.json()).toMatchObject({ state: "complete", text: expect.stringContaining("low at Brindle") });

  // one who reads the events sees them, though it is told of no other tools
  const streamed = await call(world, `${slug}/replies`, {
    method: "POST",
    body,
    headers: { accept: "text/event-stream" },
  });
  const had: NumberedEvent[] = [];
  for await (const event of eventsOf(streamed)) {
    had.push(event);
    if (event.event !== "tool" || event.data.waitsFor !== "caller") continue;
    const [head] = had;
    if (head?.event !== "reply") throw new Error("It does not begin.");
    await call(world, `${slug}/replies/${head.data.reply}/calls/${event.data.call}`, answer);
  }
  expect(had.at(-1)?.event).toBe("end");
  expect(had.filter(({ event }) => event === "tool").at(-1)?.data).toMatchObject({
    by: "caller",
    outcome: "answered",
    result: "low at Brindle",
  });
});

test("a caller that never answers is waited for no longer than until it stops the reply, and is told what it was", async ({
  world,
}) => {
  const slug = await world.makeApp("Waits in vain", content, { limits: noLimits });
  const body = JSON.stringify({ message: "What is the tide at Brindle?", tools: [tides] });
  const { reply, calls } = await (await call(world, `${slug}/replies`, { method: "POST", body })).json();
  const waited = await (await call(world, `${slug}/replies/${reply}`, { headers: { prefer: "wait=1" } })).json();
  expect(waited).toMatchObject({ state: "arriving", calls });
  expect(await (await call(world, `${slug}/replies/${reply}/stop`, { method: "POST" })).json()).toMatchObject({
    state: "stopped",
  });
  const late = await call(world, `${slug}/replies/${reply}/calls/${calls[0].call}`, {
    method: "POST",
    body: JSON.stringify({ answer: "high" }),
  });
  expect(late.status).toBe(409);
});

test("a history that its caller holds may hold calls, and is gone on from where it ends with their answers", async ({
  world,
}) => {
  const slug = await world.makeApp("Held calls", content, { limits: noLimits });
  const tool = {
    kind: "tool",
    call: "a",
    name: "tide_at",
    arguments: { place: "Brindle" },
    result: "slack at Brindle",
  };
  const visitor = { role: "visitor", text: "What is the tide at Brindle?" };
  const ask = async (messages: object[]) => {
    const body = JSON.stringify({ messages, tools: [tides] });
    return (await call(world, `${slug}/replies`, { method: "POST", body })).json();
  };
  expect((await ask([visitor, { role: "app", pieces: [tool] }])).text).toContain("slack at Brindle");
  const later = await ask([
    visitor,
    { role: "app", pieces: [tool, { kind: "text", text: "Slack." }] },
    { role: "visitor", text: "Thank you." },
  ]);
  expect(later).toMatchObject({ form: "whole", end: "complete" });
  expect(await ask([visitor, { role: "app", text: "Slack." }])).toMatchObject({ status: 400 });
  expect(await ask([visitor, { role: "app", text: "Slack.", pieces: [tool] }])).toMatchObject({ status: 400 });
  expect(await ask([{ role: "visitor", pieces: [tool] }])).toMatchObject({ status: 400 });
});

test("the module answers calls of tools of its own, says why one could not be answered, and does so once", async ({
  world,
}) => {
  const slug = await world.makeApp("Module tools", content, { limits: noLimits });
  const given: unknown[] = [];
  const talk = openTalk({
    app: `${world.address}/api/apps/${slug}`,
    visitor: "ada",
    tools: [
      {
        ...tides,
        answer: (arguments_: { place: string }) => {
          given.push(arguments_);
          if (arguments_.place === "Far Skerry") throw new Error("the gauge is broken");
          return { tide: "high" };
        },
      },
    ],
  });
  expect(await talk.say(question)).toBe(true);
  const last = talk.state.messages.at(-1);
  expect(given).toEqual([{ place: "Brindle" }, { place: "Far Skerry" }]);
  expect(last).toMatchObject({ state: "complete", text: expect.stringContaining("the gauge is broken") });
  expect(last?.text).toContain("tide high");
  expect(last?.calls.map(({ outcome }) => outcome)).toEqual(["answered", "failed"]);
});

test("a client that reads no further than why an answer ends has the reply wait for it all the same", async ({
  world,
}) => {
  const slug = await world.makeApp("Left early", content, { limits: noLimits });
  const first = { role: "user", content: "What is the tide at Brindle?" };
  const leaving = new AbortController();
  const response = await fetch(`${world.address}/api/apps/${slug}/v1/chat/completions`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ messages: [first], tools, stream: true }),
    signal: leaving.signal,
  });
  const decoder = new TextDecoder();
  let text = "";
  for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
    text += decoder.decode(part, { stream: true });
    if (text.includes('"finish_reason":"tool_calls"')) break;
  }
  leaving.abort();
  const id = /"id":"(msg_[^"]+_1_0)"/.exec(text)?.[1] ?? "";
  const call = { id, type: "function" as const, function: { name: "tide_at", arguments: '{"place":"Brindle"}' } };
  const messages = [first, { role: "assistant", content: null, tool_calls: [call] }, ...answered([call])];
  const { said } = await completed(world, slug, { messages, tools });
  expect(said.content).toContain("high at Brindle");
  const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
  expect(conversations).toHaveLength(1);
});
