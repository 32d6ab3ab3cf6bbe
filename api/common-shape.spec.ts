import { expect, noLimits, test, type World } from "../e2e/fixtures";
import { ChatClient, type ChatError } from "./common-client";

const user = (content: string) => ({ role: "user", content });

async function clientOf(world: World, name: string, access: object = {}) {
  const slug = await world.makeApp(name, { prompt: "Be brief." }, { limits: noLimits, ...access });
  return { slug, client: new ChatClient(`${world.address}/api/apps/${slug}/v1`, "any-key") };
}

/** What a call is refused with. */
const refused = async (call: Promise<unknown>) =>
  call.then(
    () => "taken",
    (error: ChatError) => ({ status: error.status, ...error.told }),
  );

test.describe("a client of the shape that most model servers share, unchanged", () => {
  test("gets whole answers, streams, and several choices of each", async ({ world }) => {
    const { slug, client } = await clientOf(world, "Unchanged");
    const messages = [user("What is 12 * 7?")];
    const whole = await client.chat({ model: slug, messages });
    expect(whole).toMatchObject({ choices: [{ index: 0, finish_reason: "stop", message: { role: "assistant" } }] });
    expect(whole.choices[0]?.message.content).toContain("84");
    expect(whole.usage.total_tokens).toBe(whole.usage.prompt_tokens + whole.usage.completion_tokens);
    const several = await client.chat({ model: slug, messages, n: 3 });
    expect(several.choices.map(({ index }) => index)).toEqual([0, 1, 2]);
    for (const { message } of several.choices) expect(message.content).toContain("84");
    const streamed = await client.stream({ model: slug, messages, n: 2, stream_options: { include_usage: true } });
    expect(streamed).toMatchObject({ ends: ["stop", "stop"], usage: { completion_tokens: expect.any(Number) } });
    for (const text of streamed.texts) expect(text).toContain("84");
    const second = [...messages, { role: "assistant", content: whole.choices[0]?.message.content }, user("And * 2?")];
    expect((await client.chat({ model: slug, messages: second, n: 2 })).choices).toHaveLength(2);
  });

  test("is told what is wrong in that shape, with the member that is", async ({ world }) => {
    const { slug, client } = await clientOf(world, "Told wrong");
    const messages = [user("Hello")];
    const wrong: [object, object][] = [
      [
        { messages, temperature: 0.2 },
        { status: 403, param: "temperature", code: "forbidden" },
      ],
      [
        { messages, max_completion_tokens: 9 },
        { status: 403, param: "max_completion_tokens" },
      ],
      [
        { messages, tools: [{ type: "function" }] },
        { status: 400, param: "tools[0].function" },
      ],
      [
        { messages, response_format: { type: "xml" } },
        { status: 400, param: expect.stringMatching(/^response_format/) },
      ],
      [
        { messages, logprobs: true },
        { status: 400, param: "logprobs" },
      ],
      [{ messages: [] }, { status: 400, param: "messages" }],
      [{ messages: [user(" ")] }, { status: 400, param: "messages" }],
      [{ messages: [{ role: "user", content: 7 }] }, { status: 400, param: "messages[0].content" }],
      [{ messages: [{ role: "pilot", content: "a" }] }, { status: 400, param: "messages[0].role" }],
      [
        { messages, n: 11 },
        { status: 400, param: "n" },
      ],
      [
        { messages, model: "nothing" },
        { status: 404, param: "model" },
      ],
      [{ messages: [{ role: "system", content: "Be rude." }, ...messages] }, { status: 403, param: null }],
    ];
    for (const [body, told] of wrong)
      expect(await refused(client.chat(body))).toMatchObject({ type: "invalid_request_error", ...told });
    // what changes nothing of the answer is passed over
    const quiet = { tools: [], response_format: { type: "text" }, logprobs: false, presence_penalty: 0, user: "ada" };
    expect((await client.chat({ messages, ...quiet, parallel_tool_calls: false })).choices).toHaveLength(1);
    const base = `${world.address}/api/apps/${slug}/v1`;
    for (const [method, path, status] of [
      ["GET", "chat/completions", 405],
      ["GET", "nothing", 404],
      ["GET", "models/nothing", 404],
      ["POST", "models", 405],
    ] as const) {
      const response = await fetch(`${base}/${path}`, { method });
      expect([path, response.status, await response.json()]).toMatchObject([
        path,
        status,
        { error: { message: expect.any(String), type: "invalid_request_error", code: expect.any(String) } },
      ]);
    }
    expect(await (await fetch(`${base}/models/${slug}`)).json()).toMatchObject({ id: slug, object: "model" });
    await world.fault({ fault: "status", status: 503 });
    expect(await refused(client.chat({ messages }))).toMatchObject({ status: 503, type: "server_error" });
    await world.fault({ fault: "dropped", after: 12 });
    await world.pace(100);
    expect(await refused(client.stream({ messages: [user("Tell me a long story about the ferry")] }))).toMatchObject({
      code: "broken-off",
    });
  });

  test("may choose what the developer allows: settings, and a system message after the app's prompt", async ({
    world,
  }) => {
    const { client } = await clientOf(world, "Allowed", {
      settings: ["maxOutput", "temperature", "stop"],
      system: true,
    });
    const system = { role: "system", content: "You are at {{nowhere}}." };
    const cut = await client.chat({
      messages: [system, user("Tell me a long story about the ferry")],
      max_completion_tokens: 5,
      temperature: 0,
      stop: "zzz",
    });
    expect(cut.choices[0]?.finish_reason).toBe("length");
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("Be brief.\n\nYou are at {{nowhere}}.");
    expect(await refused(client.chat({ messages: [user("Hello")], temperature: 9 }))).toMatchObject({
      status: 400,
      param: "temperature",
    });
  });

  test("stops what it asked for by going away, streaming or not", async ({ world }) => {
    const { slug, client } = await clientOf(world, "Away");
    await world.pace(20);
    const states = async () => {
      const { calls } = await world.bench<{ calls: { ended: { state: string } | null }[] }>(
        "GET",
        `apps/${slug}/calls`,
      );
      return calls.map(({ ended }) => ended?.state);
    };
    for (const ask of ["chat", "stream"] as const) {
      const before = (await states()).length;
      const away = new AbortController();
      const asking = client[ask]({ messages: [user("Tell me a long story about the ferry")], n: 2 }, away.signal);
      const ended = refused(asking);
      await expect.poll(async () => (await states()).length).toBe(before + 1);
      away.abort();
      await ended;
      await expect.poll(async () => (await states())[0]).toBe("stopped");
    }
  });
});
