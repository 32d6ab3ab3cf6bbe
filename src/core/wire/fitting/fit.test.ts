import { describe, expect, it } from "vitest";
import type { ReadEvent } from "../../reply/events";
import { createDecoder } from "../decode";
import { encode } from "../encode";
import { compileProfile } from "../profile";
import { answersToFitting, canonicalCall, samples } from "../samples/samples";
import { type Fitting, fit, type Pasted } from "./fit";

const utf8 = new TextDecoder();

/** The proposal for what was pasted. */
function fitted(pasted: Pasted): Fitting {
  const result = fit(pasted);
  if (result.kind === "none") throw new Error(result.why);
  return result.fitting;
}

/** What counts in a reading: the text of the first take, the thought, the counts and the end. */
function told(events: ReadEvent[]) {
  const all = (kind: "text" | "thought") =>
    events.map((each) => (each.event === kind && each.take === 0 ? each.data.text : "")).join("");
  return {
    text: all("text"),
    thought: all("thought"),
    counts: events.find(({ event }) => event === "counts")?.data,
    last: events.find(({ event, take }) => (event === "end" || event === "problem") && !take),
  };
}

describe.each(samples)(
  "fitting the shape $name from a command and its answer",
  ({ name, curl, answer, contentType, events, request, profile }) => {
    const pasted = {
      request: curl,
      answer: `HTTP/1.1 200 OK\ncontent-type: ${contentType}\n\n${utf8.decode(answer)}`,
      answers: answersToFitting(name),
    };

    it("gives a profile that reads the answer as the one written by hand does", () => {
      const proposal = fitted(pasted);
      expect(proposal.questions).toEqual([]);
      expect(proposal.provider.model).toBe(name);
      const decoder = createDecoder(compileProfile(proposal.profile), { status: 200, contentType });
      expect(told([...decoder.feed(answer), ...decoder.close()])).toEqual(told(events));
    });

    it("gives a profile that makes the request which its API expects", () => {
      const compiled = compileProfile(fitted(pasted).profile);
      const { body, ...encoded } = encode(compiled, canonicalCall(name, profile.answer.stream !== undefined));
      expect({ ...encoded, body: JSON.parse(body ?? "null") }).toEqual(request);
    });
  },
);

describe("what fitting can't know", () => {
  const curl = `curl https://127.0.0.1:1/x -H 'authorization: Bearer abc' -d '{"a":"m-1","b":"m-2","m":[{"r":"u","t":"Hello there."}]}'`;
  const answer = '{"out":{"t":"Aye, the boat runs."},"ended":"gloam"}';

  it("is asked, with what it can be", () => {
    const { questions, missing, profile } = fitted({ request: curl, answer });
    expect(questions).toEqual([
      {
        id: "app role",
        ask: expect.stringContaining("What does this API call the app"),
        proposals: expect.arrayContaining(["assistant"]),
      },
      { id: "model", ask: "Which of these is the model's name?", choices: ["m-1", "m-2"] },
      {
        id: "finish gloam",
        ask: expect.stringContaining("gloam"),
        choices: expect.arrayContaining(["complete", "length"]),
      },
    ]);
    expect(profile.finishWords).toEqual({});
    expect(missing.join("\n")).toMatch(/system prompt.+tokens.+estimated.+How an error looks/s);
  });

  it("is taken from what the developer says", () => {
    const answers = { model: "m-2", "app role": "a", "finish gloam": "complete" };
    const { questions, profile, reading } = fitted({ request: curl, answer, answers });
    expect(questions).toEqual([]);
    expect(profile.request.body).toMatchObject({ a: "m-1", b: "<model>" });
    expect(profile.roles).toMatchObject({ visitor: "u", app: "a", prompt: "first" });
    expect(reading.at(-1)).toEqual({ event: "end", take: 0, data: { reason: "complete" } });
  });

  it("is not made up where the answer holds no text", () => {
    const { missing, reading } = fitted({ request: curl, answer: '{"id":"x1","n":4}' });
    expect(missing.join(" ")).toContain("nothing in this answer reads like what a model says");
    expect(reading.at(-1)).toMatchObject({ event: "problem", data: { kind: "bad-reply" } });
  });

  it("is named where it is not spoken: a socket, binary frames, an answer that is asked for again", () => {
    expect(fit({ request: "curl wss://any.test/talk", answer: "{}" })).toEqual({
      kind: "none",
      why: expect.stringContaining("wss://any.test/talk is the address of a socket"),
    });
    const named = (answer: string) => fitted({ request: curl, answer }).missing[0];
    expect(named('{"id":"p-1","status":"queued","urls":{"get":"https://127.0.0.1:1/p-1"}}')).toContain(
      "under way (queued)",
    );
    expect(named("\0\0\0\x1a{}\0\0\0\x10{}\0\0\0\x10")).toContain("binary frames");
    expect(named('HTTP/1.1 200 OK\ncontent-type: application/octet-stream\n\n{"a":"b c"}')).toContain("binary frames");
    expect(named('{"status":"running","out":{"t":"The boat runs on Sunday as well."}}')).not.toContain("under way");
  });

  it("is the address and the model where they stand in variables, and no value then", () => {
    const request =
      'curl "$BASE_URL/v1/talk?v=2" -H "x-key: $ANY_KEY" -d "{\\"model\\":\\"$MODEL\\",\\"m\\":[{\\"r\\":\\"u\\",\\"t\\":\\"Hi\\"}]}"';
    const { provider, profile, missing } = fitted({ request, answer: '{"t":"Aye, it runs."}' });
    expect(provider).toMatchObject({ address: "", model: "", values: {}, credential: { kind: "key" } });
    expect(profile.request).toMatchObject({ path: "/v1/talk", query: { v: "2" }, body: { model: "<model>" } });
    expect(missing.join(" ")).toMatch(/variable BASE_URL.*variable MODEL/);
  });

  it("is what the developer says, whatever it looked like", () => {
    const answer =
      'data: {"x":{"lit":"Mill","loud":"MILL"}}\n\ndata: {"x":{"lit":" Quay","loud":" QUAY"}}\n\ndata: {"k":"ebb","z":{"r":7,"w":2}}\n\n';
    const request = `curl https://127.0.0.1:1/x -d '{"tone":"m-1","cap":50,"area":"north","lot":[{"r":"u","t":"Hello there."},{"r":"b","t":"Aye."},{"r":"u","t":"When?"}]}'`;
    expect(fitted({ request, answer }).questions.map(({ id }) => id)).toContain("text");
    const answers = {
      "in the answer $.x.lit": "text",
      "in the answer $.k": "finish",
      "in the answer $.z.r": "usage in",
      "in the answer $.z.w": "usage out",
      "in the request $.tone": "model",
      "in the request $.cap": "nothing",
      "in the request $.area": "value",
      "finish ebb": "complete",
    };
    const { profile, provider, questions, reading, untold } = fitted({ request, answer, answers });
    expect(questions).toEqual([]);
    expect(told(reading)).toMatchObject({ text: "Mill Quay", counts: { input: 7, output: 2 }, last: { event: "end" } });
    expect(profile.request.body).toMatchObject({ tone: "<model>", cap: 50, area: "<value:area>" });
    expect(provider).toMatchObject({ model: "m-1", values: { area: "north" } });
    expect(untold.map(({ where }) => where)).toEqual(["$.cap"]);
  });

  it("learns how an error looks from one that is pasted", () => {
    const failure = '{"fault":{"code":"nope","words":"No such pan here."}}';
    expect(fitted({ request: curl, answer, failure }).profile.answer.problem).toMatchObject({
      message: "$.fault.words",
      code: "$.fault.code",
    });
  });
});
