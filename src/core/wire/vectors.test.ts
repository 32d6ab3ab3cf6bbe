import { describe, expect, it } from "vitest";
import { encodeTexts } from "./encode";
import { compileProfile } from "./profile";
import { shippedProfiles } from "./profiles/shipped";
import { vectorsIn } from "./vectors";

const profile = compileProfile(shippedProfiles["chat-completions"]);
const head = { status: 200, contentType: "application/json" };
const answer = (...data: object[]) => JSON.stringify({ data, usage: { prompt_tokens: 7 } });
const read = (text: string, texts: number, of = profile) => vectorsIn(of, head, text, texts);

describe("vectors", () => {
  it("are asked for of many texts in one call, with the credentials of the request", () => {
    expect(encodeTexts(profile, { model: "reed-embed", key: "k", texts: ["Mill Quay", "Brindle"] })).toEqual({
      method: "POST",
      path: "/v1/embeddings",
      headers: { authorization: "Bearer k", "content-type": "application/json" },
      body: '{"model":"reed-embed","input":["Mill Quay","Brindle"]}',
    });
    expect(encodeTexts(compileProfile(shippedProfiles["json-lines"]), { model: "m", texts: ["a"] })).toBeUndefined();
  });

  it("are read in the order of their texts, with what was counted", () => {
    const text = answer({ index: 1, embedding: [0, 1] }, { index: 0, embedding: [1, 0.5] });
    expect(read(text, 2)).toEqual({
      kind: "vectors",
      vectors: [
        [1, 0.5],
        [0, 1],
      ],
      input: 7,
    });
    const bare = compileProfile({
      ...(shippedProfiles["chat-completions"] as object),
      embeddings: { path: "/v", body: { t: { "<each>": "texts", as: { say: "<text>" } } }, each: "$.v[*]" },
    });
    expect(encodeTexts(bare, { model: "m", key: "k", texts: ["a"] })?.body).toBe('{"t":[{"say":"a"}]}');
    expect(read('{"v":[[1],[2]]}', 2, bare)).toEqual({ kind: "vectors", vectors: [[1], [2]] });
  });

  it.each([
    ["nothing", 1, "not JSON"],
    [answer({ index: 0, embedding: [1] }), 2, "2 vectors were asked for, and 1"],
    [answer({ index: 0, embedding: [] }), 1, "no list of numbers"],
    [answer({ index: 0, embedding: ["1"] }), 1, "no list of numbers"],
    [answer({ index: 0, embedding: [null] }), 1, "no list of numbers"],
    [answer({ index: 2, embedding: [1] }), 1, "of text 2"],
    [answer({ index: 0, embedding: [1] }, { index: 0, embedding: [2] }), 2, "of text 0"],
    [answer({ index: 0, embedding: [1] }, { index: 1, embedding: [2, 3] }), 2, "different lengths: 1, 2"],
    ['{"error":{"message":"no such model"}}', 1, "no such model"],
  ])("that are none are named: %s", (text, texts, why) => {
    expect(read(text, texts)).toMatchObject({ kind: "problem", problem: { detail: expect.stringContaining(why) } });
  });

  it("are refused in the provider's words", () => {
    const refused = vectorsIn(profile, { ...head, status: 401 }, '{"error":{"message":"who are you?"}}', 1);
    expect(refused).toMatchObject({
      problem: { kind: "unauthorised", detail: expect.stringContaining("who are you?") },
    });
  });
});
