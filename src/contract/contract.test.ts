import { describe, expect, it } from "vitest";
import { noSum } from "@/core/conversation/sum";
import { problem } from "@/core/problem/problem";
import { noCounts } from "@/core/tokens/counts";
import { apps } from "./apps";
import { type Answer, addressFor, answersAt, type Call, commandFor } from "./call";
import { calls } from "./calls";
import { benchConversations, conversations } from "./conversations";
import { exports } from "./exports";
import { described, openApiOf } from "./openapi";
import { parse } from "./parse";
import { problemDocument, problemDocumentSchema } from "./problem";
import { wireProviderSchema } from "./providers";
import { parseReplyCall, replies } from "./replies";

const detailOf = (body: unknown) => {
  const parsed = parseReplyCall(body);
  return parsed.ok ? undefined : [parsed.problem.kind, parsed.problem.detail];
};

describe("the body of a call for a reply", () => {
  it.each([
    [{ message: "Hello" }],
    [{ message: [{ kind: "text", text: "Hello" }], conversation: "c", after: "m", variables: { desk: "Mill Quay" } }],
    [{ goOn: "msg_1" }],
    [{ again: "msg_1", count: 10, with: { model: "pan-brief" } }],
    [{ message: "Hello", conversation: "c", after: null }],
    [{ message: "Hello", with: { model: "pan-brief", settings: { temperature: 0 }, preview: true } }],
    [{ messages: [{ role: "visitor", text: "a" }], store: true }],
    [{ messages: ["visitor", "app", "visitor"].map((role) => ({ role, text: role })) }],
  ])("may be %j", (body) => {
    expect(parseReplyCall(body)).toEqual({ ok: true, value: body });
  });

  it.each([
    ["text", ["bad-request", "The body is not a JSON object."]],
    [[], ["bad-request", "The body is not a JSON object."]],
    [{}, ["bad-request", "The body holds neither `message`, `messages`, `again` nor `goOn`."]],
    [{ message: "" }, ["bad-request", "`message` is empty; send some text."]],
    [{ message: "a", colour: 1, size: 2 }, ["bad-request", "There is no field `colour`, `size`."]],
    [{ message: "a", variables: { desk: 7 } }, ["bad-request", expect.stringContaining("`variables.desk`")]],
    [{ goOn: "a", message: "b" }, ["bad-request", "There is no field `message`."]],
    [{ again: "m", count: 11 }, ["bad-request", expect.stringContaining("`count`")]],
    [{ message: "a", with: { colour: 1 } }, ["bad-request", expect.stringContaining("colour")]],
    [{ messages: [] }, ["bad-request", expect.stringContaining("messages")]],
    [
      { messages: Array.from({ length: 401 }, (_, at) => ({ role: at % 2 ? "app" : "visitor", text: "a" })) },
      ["bad-request", expect.stringContaining("messages")],
    ],
    [{ messages: "a" }, ["bad-request", expect.stringContaining("messages")]],
    [{ messages: [{ role: "system", text: "a" }] }, ["bad-request", expect.stringContaining("system message")]],
    [{ messages: [{ role: "app", text: "a" }] }, ["bad-request", expect.stringContaining("not their turn")]],
    [
      { messages: ["visitor", "visitor"].map((role) => ({ role, text: role })) },
      ["bad-request", expect.stringContaining("messages[1]")],
    ],
    [
      { messages: ["visitor", "app"].map((role) => ({ role, text: role })) },
      ["bad-request", "The last message is the app's."],
    ],
  ])("%j is refused with the reason", (body, detail) => {
    expect(detailOf(body)).toEqual(detail);
  });
});

describe("the document of an app", () => {
  it("describes every call that a caller may make, and each of its kinds of answers", () => {
    const ofApps = Object.values(calls)
      .flatMap((group) => Object.values(group) as Call[])
      .filter(({ by }) => by !== "bench");
    const named = (all: Call[]) => all.map(({ method, path }) => `${method} ${path}`).sort();
    expect(named(Object.values(described))).toEqual(named(ofApps));
    const { paths } = openApiOf({
      slug: "quay-desk",
      name: "Quay Desk",
      base: "http://127.0.0.1:4600",
      version: "1",
      callers: "machine",
      asks: [],
    });
    for (const { method, path, answers } of ofApps) {
      const operation = paths[path.replace("{slug}", "quay-desk")]?.[method.toLowerCase()] as {
        responses: Record<string, { content?: object }>;
      };
      for (const [status, declared] of Object.entries(answers)) {
        const all = (Array.isArray(declared) ? declared : [declared]) as Answer[];
        const bodies = all.flatMap((answer) =>
          answer.kind === "nothing" ? [] : answer.kind === "bytes" ? answer.types : [answer.kind],
        );
        expect([path, status, Object.keys(operation.responses[status]?.content ?? {}).length]).toEqual([
          path,
          status,
          bodies.length,
        ]);
      }
    }
  });

  it("tells what its replies are as data, with references that lead into it", () => {
    const schema = {
      $id: "https://saltmarsh.example/trip",
      type: "object",
      properties: { to: { $ref: "#/$defs/place" }, again: { $ref: "#" } },
      $defs: { place: { type: "string" } },
    };
    const app = { slug: "a", name: "A", base: "http://h", version: "1", callers: "machine" as const, asks: [] };
    const { schemas } = openApiOf({ ...app, schema }).components;
    expect(schemas.WholeAnswer?.properties?.data).toMatchObject({ $ref: "#/components/schemas/ReplyData" });
    expect(schemas.ReplyData).toEqual({
      type: "object",
      properties: {
        to: { $ref: "#/components/schemas/ReplyData/$defs/place" },
        again: { $ref: "#/components/schemas/ReplyData" },
      },
      $defs: { place: { type: "string" } },
    });
    expect(openApiOf(app).components.schemas.ReplyData).toBeUndefined();
  });

  it("has the three forms of an export in the contract", () => {
    expect(answersAt(exports.history, 200).map((answer) => ("type" in answer ? answer.type : answer.kind))).toEqual([
      "lines",
      "text/markdown",
      "text/csv",
    ]);
  });
});

describe("other bodies", () => {
  it.each([
    [apps.make.body.schema, { name: "  ", provider: "p", model: "m" }, "`name` is empty."],
    [apps.make.body.schema, { name: "x".repeat(61), provider: "p", model: "m" }, "`name` has more than 60 characters."],
    [
      wireProviderSchema,
      { name: "A", address: "ftp://a", profile: "p", credential: { kind: "none" }, models: [] },
      "`address` is not an http or https address.",
    ],
    [
      wireProviderSchema,
      { name: "A", address: "http://a", profile: "p", credential: { kind: "smoke" }, models: [] },
      expect.stringContaining("`credential.kind`"),
    ],
  ])("say where they do not fit", (schema, body, detail) => {
    const parsed = parse(schema, body);
    expect(parsed.ok ? undefined : parsed.problem.detail).toEqual(detail);
  });
});

describe("a problem document", () => {
  it("is one by RFC 9457, with what to do", () => {
    const document = problemDocument(problem("busy", "Reply r1 is still arriving."), { reply: "r1" });
    expect(document).toEqual({
      type: "urn:unruly-finch:problem:busy",
      title: "A reply is still arriving in this conversation",
      status: 409,
      kind: "busy",
      detail: "Reply r1 is still arriving.",
      advice: "Wait for it, stop it, or branch with `after`.",
      reply: "r1",
    });
    expect(problemDocumentSchema.parse(document)).toEqual(document);
  });
});

describe("the calls", () => {
  const all = Object.values(calls).flatMap((group) => Object.values(group) as Call[]);

  it("are each at a place of their own, with a sentence", () => {
    const places = all.map(({ method, path }) => `${method} ${path}`);
    expect(new Set(places).size).toBe(places.length);
    for (const { does } of all) expect(does).toMatch(/^[A-Z].*\.$/);
  });

  it("of the bench are the bench's alone", () => {
    for (const { path, by } of all) expect([path, by === "bench"]).toEqual([path, path.startsWith("/api/bench/")]);
  });

  it("that show an example show one that they take", () => {
    for (const { example, body } of all)
      if (example) expect(body?.parse(JSON.stringify(example.body))).toMatchObject({ ok: true });
  });

  it("have addresses with what is given, escaped", () => {
    expect(addressFor(benchConversations.read, { id: "a/b", before: "12-x y" })).toBe(
      "/api/bench/conversations/a%2Fb?before=12-x+y",
    );
    expect(addressFor(benchConversations.read, { id: "a" })).toBe("/api/bench/conversations/a");
  });

  it("are made as a command by their example", () => {
    const odd = {
      ...replies.ask,
      example: { headers: { "finch-visitor": "o'neil; rm x" }, body: { message: "it's" } },
    };
    expect(commandFor(odd, "http://h", { slug: "a" })).toBe(
      `curl http://h/api/apps/a/replies -H 'content-type: application/json' -H 'finch-visitor: o'\\''neil; rm x' -d '{"message":"it'\\''s"}'`,
    );
    expect(commandFor(replies.ask, "http://h", { slug: "quay-desk" })).toBe(
      `curl -N http://h/api/apps/quay-desk/replies -H 'content-type: application/json' -H 'accept: text/event-stream' -d '{"message":"When does the next boat leave?"}'`,
    );
  });
});

describe("what is told of a reply", () => {
  const stored = {
    id: "m",
    parent: "p",
    turn: 1,
    role: "app",
    pieces: [],
    counts: noCounts,
    soFar: noSum,
    at: 1,
    state: "complete",
    reported: null,
    continues: null,
    facts: { revision: 1, provider: "Reedbed", model: "reed-swift", trace: [1], addedLater: "a secret" },
  };
  const page = { conversation: "c", messages: [stored], before: null };

  it("is named member by member: one that is added to what is stored leaves by no call", () => {
    const caller = conversations.read.answers[200].schema.parse({
      ...page,
      messages: [{ ...stored, tokens: 4, siblings: [], rating: null }],
    });
    expect(caller.messages[0]).toMatchObject({ facts: { revision: 1, provider: "Reedbed", model: "reed-swift" } });
    const messages = [{ ...stored, siblings: [], clearedFor: [], isPinned: false, ratings: {} }];
    const about = { title: null, opening: "a", note: "", tags: [], saidAgain: null, price: null, isApart: false };
    const hanging = { clears: [], pinned: [], summaries: [], summarising: null };
    const whole = { ...page, ...about, ...hanging, messages, app: "a", origin: "bench", client: null };
    const bench = benchConversations.read.answers[200].schema.parse(whole);
    expect(JSON.stringify([caller, bench])).not.toContain("addedLater");
    expect(JSON.stringify(caller)).not.toMatch(/trace|soFar|counts|reported/);
  });
});
