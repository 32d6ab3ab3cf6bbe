import { describe, expect, it } from "vitest";
import { createDecoder } from "../decode";
import { encode } from "../encode";
import { answerIn } from "../pasted/answer";
import { compileProfile } from "../profile";
import { type Api, apis } from "../samples/apis";
import { canonicalCall, sampleKey } from "../samples/samples";
import { type Fitting, fit } from "./fit";

function fitted({ command, answer }: Api, answers?: Record<string, string>): Fitting {
  const result = fit({ request: command, answer, answers });
  if (result.kind === "none") throw new Error(result.why);
  return result.fitting;
}

/** Values that the petrel's provider has of its own. */
const values = { region: "north", project: "trial" };

describe.each(apis)("the $name, an API with $trait", (api) => {
  const { says = {}, answer } = api;

  it("is asked about what nobody can know, and about nothing else", () => {
    expect(
      fitted(api)
        .questions.map(({ id }) => id)
        .sort(),
    ).toEqual(Object.keys(says).sort());
    expect(fitted(api, says).questions).toEqual([]);
  });

  it("is sure of what was proven, and says of what it is not", () => {
    const { findings, untold } = fitted(api, says);
    const of = (certainty: string) => findings.filter((each) => each.certainty === certainty).map(({ what }) => what);
    for (const what of api.sure) expect(of("sure")).toContain(what);
    for (const what of api.likely ?? []) expect(of("likely")).toContain(what);
    expect(untold.map(({ where }) => where)).toEqual(api.untold ?? []);
  });

  it("is sent the request that it expects", () => {
    const { profile, provider } = fitted(api, says);
    expect(provider.model).toBe(api.model);
    const compiled = compileProfile(profile);
    const sent = encode(compiled, {
      ...canonicalCall(api.model, compiled.stream !== undefined),
      key: sampleKey,
      values,
    });
    const { "content-type": type, ...headers } = sent.headers;
    const isForm = type === "application/x-www-form-urlencoded";
    const body = isForm ? Object.fromEntries(new URLSearchParams(sent.body)) : JSON.parse(sent.body ?? "null");
    expect({ path: sent.path, headers: isForm ? { ...headers, "content-type": type } : headers, body }).toEqual({
      path: api.path,
      headers: api.headers ?? {},
      body: api.body,
    });
  });

  it("is read whole", () => {
    const { profile, reading } = fitted(api, says);
    const { contentType, headers, body } = answerIn(answer);
    const decoder = createDecoder(compileProfile(profile), { status: 200, contentType, headers });
    const events = [...decoder.feed(new TextEncoder().encode(body)), ...decoder.close()];
    const all = (kind: "text" | "thought") =>
      events.map((each) => (each.event === kind && each.take === 0 ? each.data.text : "")).join("");
    const last = events.find(({ event, take }) => (event === "end" || event === "problem") && !take);
    expect({
      text: all("text"),
      thought: all("thought") || undefined,
      counts: events.find(({ event }) => event === "counts")?.data,
      end: last?.event === "end" ? last.data.reason : JSON.stringify(last?.data),
    }).toEqual({ text: api.text, thought: api.thought, counts: api.counts, end: api.end });
    expect(reading).toEqual(events);
  });
});
