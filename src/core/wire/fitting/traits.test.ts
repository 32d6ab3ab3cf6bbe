import { describe, expect, it } from "vitest";
import { createDecoder } from "../decode";
import { encode } from "../encode";
import { answerIn } from "../pasted/answer";
import { compileProfile } from "../profile";
import { canonicalCall, sampleKey } from "../samples/samples";
import { type TraitApi, traits } from "../samples/traits";
import { type Fitting, fit } from "./fit";

function fitted({ command, answer, says }: TraitApi, isTold = true): Fitting {
  const result = fit({ request: command, answer, ...(isTold && says ? { answers: says } : {}) });
  if (result.kind === "none") throw new Error(result.why);
  return result.fitting;
}

describe.each(traits)("an API with $trait", (api) => {
  it("is fitted whole: asked about what nobody can know, sent what it expects, read as it answers", () => {
    const asked = fitted(api, false).questions.map(({ id }) => id);
    const { profile, provider, questions, untold } = fitted(api);
    const compiled = compileProfile(profile);
    const request = encode(compiled, { ...canonicalCall(api.model, compiled.stream !== undefined), key: sampleKey });
    const { "content-type": _type, ...headers } = request.headers;
    const { contentType, headers: answered, body } = answerIn(api.answer);
    const decoder = createDecoder(compiled, { status: 200, contentType, headers: answered });
    const events = [...decoder.feed(new TextEncoder().encode(body)), ...decoder.close()];
    const all = (kind: "text" | "thought") =>
      events.map((each) => (each.event === kind && each.take === 0 ? each.data.text : "")).join("");
    const last = events.find(({ event, take }) => (event === "end" || event === "problem") && !take);
    expect({
      asked,
      left: questions,
      model: provider.model,
      untold: untold.map(({ where }) => where),
      path: request.path,
      headers,
      body: JSON.parse(request.body ?? "null"),
      text: all("text"),
      thought: all("thought"),
      counts: events.find(({ event }) => event === "counts")?.data,
      end: last?.event === "end" ? last.data.reason : JSON.stringify(last?.data),
    }).toEqual({
      asked: Object.keys(api.says ?? {}),
      left: [],
      model: api.model,
      untold: api.untold ?? [],
      path: api.path,
      headers: api.headers,
      body: JSON.parse(JSON.stringify(api.body)),
      text: api.text,
      thought: api.thought ?? "",
      counts: api.counts,
      end: api.end,
    });
  });
});
