import { schemas } from "@/core/schema/schema";
import type { ReplySchema } from "@/core/typed/schema";
import { allEvents, expect, noLimits, type StandInName, test, type World } from "../e2e/fixtures";

/** With nesting, an enumeration, a union, formats, bounds and a reference that leads back. */
const trip: ReplySchema = {
  type: "object",
  properties: {
    to: { enum: ["Brindle", "Tansy Holm", "Far Skerry"] },
    seats: { type: "integer", minimum: 1, maximum: 40 },
    on: { type: "string", format: "date" },
    contact: {
      anyOf: [
        { type: "object", properties: { email: { type: "string", format: "email" } }, required: ["email"] },
        { type: "object", properties: { code: { type: "string", pattern: "^[A-Z]{2}-\\d{3}$" } }, required: ["code"] },
      ],
    },
    back: { anyOf: [{ type: "null" }, { $ref: "#/$defs/leg" }] },
    extras: { type: "array", items: { enum: ["dog", "bicycle", "pram"] }, minItems: 1, maxItems: 3 },
  },
  required: ["to", "seats", "on", "contact", "back", "extras"],
  additionalProperties: false,
  $defs: {
    leg: {
      type: "object",
      properties: { at: { type: "string" }, next: { anyOf: [{ type: "null" }, { $ref: "#/$defs/leg" }] } },
      required: ["at", "next"],
    },
  },
};
const asking = "Book 3 seats to Brindle, with a dog.";

const ask = (world: World, slug: string, body: object, headers: Record<string, string> = {}) =>
  fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada", ...headers },
    body: JSON.stringify(body),
  });

test("a reply is data that fits a schema, and is told as it grows", async ({ world }) => {
  const slug = await world.makeApp("Typed", { model: "reed-deep", schema: trip }, { limits: noLimits });
  const whole = await (await ask(world, slug, { message: asking })).json();
  expect(schemas.misfitOf(trip, whole.data)).toBeUndefined();
  expect(whole.data).toMatchObject({ to: "Brindle", seats: 3 });
  expect(JSON.parse(whole.text)).toEqual(whole.data);
  await world.pace("own");
  const response = await ask(world, slug, { message: asking }, { accept: "text/event-stream" });
  const events = await allEvents(response);
  const data = events.flatMap((event) => (event.event === "data" ? [event.data.value as object] : []));
  expect(data.length).toBeGreaterThan(3);
  const sizes = data.map((value) => Object.keys(value).length);
  expect(sizes[0]).toBeLessThan(6);
  expect(sizes).toEqual([...sizes].sort((a, b) => a - b));
  expect(schemas.misfitOf(trip, data.at(-1))).toBeUndefined();
  const [head] = events;
  if (head?.event !== "reply") throw new Error("It does not begin.");
  const standing = await fetch(`${world.address}/api/apps/${slug}/replies/${head.data.reply}`, {
    headers: { "finch-visitor": "ada" },
  });
  expect((await standing.json()).data).toEqual(data.at(-1));
});

test("an API that has a place for the schema is sent it there, and another one in words", async ({ world }) => {
  const by = async (standIn: StandInName, model: string) => {
    const provider = await world.wire(standIn);
    const slug = await world.makeApp(`Typed by ${model}`, { provider, model, schema: trip }, { limits: noLimits });
    const { data, reply } = await (await ask(world, slug, { message: asking })).json();
    expect(schemas.misfitOf(trip, data)).toBeUndefined();
    const { dispatches } = await world.bench<{ dispatches: { request: { body: string } }[] }>(
      "GET",
      `replies/${reply}/dispatches`,
    );
    return dispatches[0]?.request.body ?? "";
  };
  expect(JSON.parse(await by("Reedbed", "reed-deep")).response_format.json_schema.schema).toEqual(trip);
  const told = await by("Saltpan", "pan-clear");
  expect(told).toContain("fits this JSON Schema");
});

/** Asks for one that never fits, since nothing can. */
const impossible: ReplySchema = {
  type: "object",
  properties: { seats: { type: "integer" } },
  required: ["seats"],
  not: {},
};

test("what does not fit is asked for once more with what is wrong, and is a named problem then, with its text kept", async ({
  world,
}) => {
  const slug = await world.makeApp("Never fits", { model: "reed-deep", schema: impossible }, { limits: noLimits });
  await world.forgetCalls();
  const response = await ask(world, slug, { message: asking });
  const problem = await response.json();
  expect([response.status, problem.kind]).toEqual([502, "unfit"]);
  expect(problem.detail).toContain("must NOT be valid");
  expect(JSON.parse(problem.partial)).toEqual({ seats: 3 });
  const calls = await world.calls();
  expect(calls).toHaveLength(2);
  expect(JSON.stringify(calls[1])).toContain("Send the whole document once more");
  const events = await allEvents(await ask(world, slug, { message: asking }, { accept: "text/event-stream" }));
  const told = events.map(({ event }) => event);
  expect(events.find(({ event }) => event === "attempt")?.data).toMatchObject({
    anew: true,
    because: { kind: "unfit" },
  });
  expect(told.at(-1)).toBe("problem");
});

test("callers bring a schema of their own, where they may: over the endpoints and in the common shape", async ({
  world,
}) => {
  const slug = await world.makeApp("Brings a schema", { model: "reed-deep" }, { limits: noLimits });
  const closed = await world.makeApp("No schema here", {}, { limits: noLimits, brings: ["tools"] });
  const { data } = await (await ask(world, slug, { message: asking, schema: trip })).json();
  expect(schemas.misfitOf(trip, data)).toBeUndefined();
  expect((await ask(world, closed, { message: asking, schema: trip })).status).toBe(403);
  expect((await ask(world, slug, { message: asking, schema: { type: "no type" } })).status).toBe(400);
  const common = async (more: object, at = slug) => {
    const answer = await fetch(`${world.address}/api/apps/${at}/v1/chat/completions`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify({ messages: [{ role: "user", content: asking }], ...more }),
    });
    return answer.text();
  };
  const format = { response_format: { type: "json_schema", json_schema: { name: "trip", schema: trip } } };
  const content = JSON.parse(await common(format)).choices[0].message.content;
  expect(schemas.misfitOf(trip, JSON.parse(content))).toBeUndefined();
  const object = JSON.parse(await common({ response_format: { type: "json_object" } })).choices[0].message.content;
  expect(JSON.parse(object)).toMatchObject({});
  // what was streamed in that shape can't be taken back
  const never = { response_format: { type: "json_schema", json_schema: { schema: impossible } } };
  await world.forgetCalls();
  expect(await common({ ...never, stream: true })).toContain('"code":"unfit"');
  expect(await world.calls()).toHaveLength(1);
  expect(JSON.parse(await common(never)).error.code).toBe("unfit");
  expect(await common({ response_format: { type: "xml" } })).toContain("response_format");
});

test("of two hundred replies of each model, all fit at once or after the mend but the careless one's, which are found", async ({
  world,
}) => {
  test.setTimeout(300_000);
  const counts: Record<string, { once: number; mended: number; never: number }> = {};
  for (const [standIn, model] of [
    ["Reedbed", "reed-deep"],
    ["Reedbed", "reed-swift"],
    ["Saltpan", "pan-clear"],
    ["Tidegate", "tide-wide"],
  ] as const) {
    const provider = await world.wire(standIn);
    const slug = await world.makeApp(
      `Two hundred of ${model}`,
      { provider, model, schema: trip, settings: { maxOutput: 2_000 } },
      { limits: noLimits },
    );
    const count = { once: 0, mended: 0, never: 0 };
    const one = async (at: number) => {
      const message = `Book ${1 + (at % 30)} seats to ${["Brindle", "Tansy Holm", "Far Skerry"][at % 3]}, please, number ${at}.`;
      const answer = await (await ask(world, slug, { message }, { "finch-visitor": `v${at}` })).json();
      const { dispatches } = await world.bench<{ dispatches: unknown[] }>("GET", `replies/${answer.reply}/dispatches`);
      if (answer.data === undefined) {
        expect([answer.kind, typeof answer.partial, dispatches.length]).toEqual(["unfit", "string", 2]);
        count.never += 1;
        return;
      }
      expect(schemas.misfitOf(trip, answer.data)).toBeUndefined();
      if (dispatches.length === 2) count.mended += 1;
      else count.once += 1;
    };
    const numbers = Array.from({ length: 200 }, (_, at) => at);
    await Promise.all(
      Array.from({ length: 4 }, async () => {
        for (let at = numbers.shift(); at !== undefined; at = numbers.shift()) await one(at);
      }),
    );
    counts[model] = count;
  }
  console.log("of 200 replies each:", JSON.stringify(counts));
  for (const [model, { once, mended, never }] of Object.entries(counts)) {
    expect(once + mended + never).toBe(200);
    if (model !== "reed-swift") expect([model, once]).toEqual([model, 200]);
  }
  const careless = counts["reed-swift"];
  expect(careless?.once).toBeLessThan(200);
  expect(careless?.mended).toBeGreaterThan(0);
  expect(careless?.never).toBeGreaterThan(0);
});
