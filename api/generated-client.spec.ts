import { execFile } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import SwaggerParser from "@apidevtools/swagger-parser";
import { validate } from "@scalar/openapi-parser";
import { Validator } from "@seriousme/openapi-schema-validator";
import { expect, noLimits, test } from "../e2e/fixtures";

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

function run(args: string[]): Promise<{ code: number | null; out: string }> {
  return new Promise((resolve) => {
    const child = execFile(process.execPath, args, { timeout: 60_000 }, (_error, out, err) =>
      resolve({ code: child.exitCode, out: out + err }),
    );
  });
}

test("a client that a generator made from the document talks, streams, lists and rates, typed", async ({ world }) => {
  test.setTimeout(120_000);
  const slug = await world.makeApp("Generated", { prompt: "You stand at {{desk}}." }, { limits: noLimits });
  const document = await (await fetch(`${world.address}/api/apps/${slug}/openapi.json`)).text();
  const file = (name: string) => test.info().outputPath(name);
  mkdirSync(test.info().outputDir, { recursive: true });
  writeFileSync(file("openapi.json"), document);
  writeFileSync(file("program.ts"), program.replace("PATH", `/api/apps/${slug}/replies`));
  const made = await run([
    "node_modules/oazapfts/dist/cli.js",
    "--allSchemas",
    file("openapi.json"),
    file("client.ts"),
  ]);
  expect(made).toMatchObject({ code: 0 });
  const types = ["--noEmit", "--ignoreConfig", "--strict", "--skipLibCheck", "--target", "es2023"];
  const modules = ["--module", "esnext", "--moduleResolution", "bundler", "--lib", "es2023,dom"];
  const checked = await run(["node_modules/typescript/bin/tsc", ...types, ...modules, file("program.ts")]);
  expect(checked).toEqual({ code: 0, out: "" });
  const { out } = await run(["--import", "tsx", file("program.ts")]);
  expect(JSON.parse(out)).toMatchObject({ said: expect.stringContaining("Ivo"), turns: [2], rated: 204 });
  // a variable that the prompt does not leave to calls is none of the types
  writeFileSync(file("program.ts"), program.replace("desk:", "dock:"));
  expect((await run(["node_modules/typescript/bin/tsc", ...types, ...modules, file("program.ts")])).out).toContain(
    "desk",
  );
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
