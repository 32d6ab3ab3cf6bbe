import { describe, expect, it } from "vitest";
import { problem } from "@/core/problem/problem";
import { makeAppSchema } from "./apps";
import { parse } from "./parse";
import { problemDocument, problemDocumentSchema } from "./problem";
import { wireProviderSchema } from "./providers";
import { parseReplyCall } from "./replies";

const detailOf = (body: unknown) => {
  const parsed = parseReplyCall(body);
  return parsed.ok ? undefined : [parsed.problem.kind, parsed.problem.detail];
};

describe("the body of a call for a reply", () => {
  it.each([
    [{ message: "Hello" }],
    [{ message: [{ kind: "text", text: "Hello" }], conversation: "c", after: "m", variables: { desk: "Mill Quay" } }],
    [{ goOn: "msg_1" }],
  ])("may be %j", (body) => {
    expect(parseReplyCall(body)).toEqual({ ok: true, value: body });
  });

  it.each([
    ["text", ["bad-request", "The body is not a JSON object."]],
    [[], ["bad-request", "The body is not a JSON object."]],
    [{}, ["bad-request", "The body holds neither `message` nor `goOn`."]],
    [{ message: "" }, ["bad-request", "`message`: is empty; send some text."]],
    [{ message: "a", colour: 1, size: 2 }, ["bad-request", "There is no field `colour`, `size`."]],
    [{ message: "a", variables: { desk: 7 } }, ["bad-request", expect.stringContaining("`variables.desk`")]],
    [{ goOn: "a", message: "b" }, ["bad-request", "There is no field `message`."]],
    [{ again: "m" }, ["not-there-yet", expect.any(String)]],
    [{ message: "a", with: {} }, ["not-there-yet", expect.any(String)]],
  ])("%j is refused with the reason", (body, detail) => {
    expect(detailOf(body)).toEqual(detail);
  });
});

describe("other bodies", () => {
  it.each([
    [makeAppSchema, { name: "  ", provider: "p", model: "m" }, "`name`: is empty."],
    [makeAppSchema, { name: "x".repeat(61), provider: "p", model: "m" }, "`name`: has more than 60 characters."],
    [
      wireProviderSchema,
      { name: "A", address: "ftp://a", profile: "p", credential: { kind: "none" }, models: [] },
      "`address`: is not an http or https address.",
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
