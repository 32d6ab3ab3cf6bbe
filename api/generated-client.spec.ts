import { execFile } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import SwaggerParser from "@apidevtools/swagger-parser";
import { validate } from "@scalar/openapi-parser";
import { Validator } from "@seriousme/openapi-schema-validator";
import { expect, noLimits, test, type World } from "../e2e/fixtures";

/** A front end on a client that a generator made: it talks, streams, lists and rates, and no type is claimed in it. */
const program = `import { askForReply, defaults, listConversations, type MessageCall, rateReply, type ReplyEvent } from "./client";

defaults.headers = { "finch-visitor": "ada" };
const variables = { desk: "Mill Quay" };

const asked = await askForReply({ message: "I'm Ivo", variables });
if (asked.status !== 200) throw new Error(asked.status === 202 ? asked.data.form : asked.data.detail);
const { reply, conversation, text } = asked.data;

const next: MessageCall = { message: "What is my name?", conversation, variables };
const response = await fetch(\`\${defaults.baseUrl}PATH\`, {
  method: "POST",
  headers: { ...defaults.headers, accept: "application/x-ndjson", "content-type": "application/json" },
  body: JSON.stringify(next),
});
let said = "";
for (const line of (await response.text()).trim().split("\\n")) {
  const event: ReplyEvent = JSON.parse(line);
  if (event.event === "text") said += event.data.text;
  if (event.event === "problem") throw new Error(event.data.detail);
}

const listed = await listConversations({ count: 5 });
if (listed.status !== 200) throw new Error(listed.data.detail);
const turns = listed.data.conversations.map(({ turnCount }) => turnCount);

const rated = await rateReply(reply, { rating: "good" });
console.log(JSON.stringify({ text, said, turns, rated: rated.status }));
`;

/** One that brings a tool along, answers its call, and reads the reply as the data that the app says it is. */
const answering = `import { askForReply, defaults, readReply, type ReplyData, sayToCall } from "./client";

defaults.headers = { "finch-visitor": "ada" };
const parameters = { type: "object", properties: { place: { type: "string" } }, required: ["place"] };
const tools = [{ name: "tide_at", description: "The tide at a place", parameters }];

const asked = await askForReply({ message: "What is the tide at Brindle?", tools });
if (asked.status !== 202 || asked.data.form !== "calls") throw new Error(JSON.stringify(asked.data));
const { reply, calls } = asked.data;
for (const { call } of calls) {
  const said = await sayToCall(reply, call, { answer: "high water at 9:12" });
  if (said.status !== 204) throw new Error(said.data.detail);
}
const read = await readReply(reply, { prefer: "wait=30" });
if (read.status !== 200) throw new Error("It is gone.");
const data = read.data.data as ReplyData;
const tide: string = data.tide;
console.log(JSON.stringify({ calls: calls.map(({ name }) => name), state: read.data.state, tide }));
`;

function run(args: string[]): Promise<{ code: number | null; out: string }> {
  return new Promise((resolve) => {
    const child = execFile(process.execPath, args, { timeout: 60_000 }, (_error, out, err) =>
      resolve({ code: child.exitCode, out: out + err }),
    );
  });
}

/** A client that a generator made of an app's document, with a program on it: how it is checked, and run. */
async function clientOf(world: World, slug: string, text: string) {
  const document = await (await fetch(`${world.address}/api/apps/${slug}/openapi.json`)).text();
  const file = (name: string) => test.info().outputPath(name);
  mkdirSync(test.info().outputDir, { recursive: true });
  writeFileSync(file("openapi.json"), document);
  const write = (program: string) => writeFileSync(file("program.ts"), program);
  write(text);
  const generator = ["node_modules/oazapfts/dist/cli.js", "--allSchemas", file("openapi.json"), file("client.ts")];
  const types = ["--noEmit", "--ignoreConfig", "--strict", "--skipLibCheck", "--target", "es2023"];
  const modules = ["--module", "esnext", "--moduleResolution", "bundler", "--lib", "es2023,dom"];
  return {
    client: await run(generator),
    write,
    check: () => run(["node_modules/typescript/bin/tsc", ...types, ...modules, file("program.ts")]),
    runs: () => run(["--import", "tsx", file("program.ts")]),
  };
}

test("a client that a generator made from the document talks, streams, lists and rates, typed", async ({ world }) => {
  test.setTimeout(120_000);
  const slug = await world.makeApp("Generated", { prompt: "You stand at {{desk}}." }, { limits: noLimits });
  const text = program.replace("PATH", `/api/apps/${slug}/replies`);
  const { client, write, check, runs } = await clientOf(world, slug, text);
  expect(client).toMatchObject({ code: 0 });
  expect(await check()).toEqual({ code: 0, out: "" });
  const { out } = await runs();
  expect(JSON.parse(out)).toMatchObject({ said: expect.stringContaining("Ivo"), turns: [2], rated: 204 });
  // a variable that the prompt does not leave to calls is none of the types
  write(text.replace("desk:", "dock:"));
  expect((await check()).out).toContain("desk");
});

test("one made from the document brings a tool along, answers its call, and has the type of what comes", async ({
  world,
}) => {
  test.setTimeout(120_000);
  const schema = {
    type: "object",
    properties: { tide: { type: "string" } },
    required: ["tide"],
    additionalProperties: false,
  };
  const slug = await world.makeApp("Generated calls", { model: "reed-deep", schema }, { limits: noLimits });
  const { client, check, runs } = await clientOf(world, slug, answering);
  expect(client).toMatchObject({ code: 0 });
  expect(await check()).toEqual({ code: 0, out: "" });
  const { out } = await runs();
  expect(JSON.parse(out)).toEqual({ calls: ["tide_at"], state: "complete", tide: expect.stringContaining("9:12") });
});

test("three validators take the document", async ({ world }) => {
  const slug = await world.makeApp("Validated", { prompt: "You stand at {{desk}}." }, { callers: "token" });
  const document = async () => (await fetch(`${world.address}/api/apps/${slug}/openapi.json`)).json();
  expect(await new Validator().validate(await document())).toMatchObject({ valid: true });
  expect(await SwaggerParser.validate(await document())).toMatchObject({ openapi: "3.1.0" });
  expect(await validate(await document())).toMatchObject({ valid: true });
  const newer = await fetch(`${world.address}/api/apps/${slug}/openapi.json?version=3.2`);
  expect(await new Validator().validate(await newer.json())).toMatchObject({ valid: true });
});
