import { createHmac } from "node:crypto";
import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { instant } from "./pace";
import { bellhouse, sampleId, sampleSecret } from "./shapes/bellhouse";
import { lantern, version } from "./shapes/lantern";
import { sampleKey as saltKey, saltpan } from "./shapes/saltpan";
import { tidegate, sampleKey as tideKey } from "./shapes/tidegate";
import { type StandIn, serve } from "./standin";

let server: Server | undefined;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});

/** Starts a stand-in and gives how it is called. */
async function started(standIn: StandIn) {
  const listening = serve(standIn, instant);
  server = listening;
  await new Promise<void>((resolve) => listening.listen(0, "127.0.0.1", resolve));
  const address = `http://127.0.0.1:${(listening.address() as AddressInfo).port}`;
  return async (method: string, path: string, headers: Record<string, string>, body?: object) => {
    const response = await fetch(address + path, { method, headers, body: body && JSON.stringify(body) });
    const text = await response.text();
    return { status: response.status, type: response.headers.get("content-type"), text, json: () => JSON.parse(text) };
  };
}

describe("Saltpan", () => {
  const key = { "x-pan-key": saltKey };
  const talk = [{ by: "guest", words: "Hello" }];

  it("streams named events, each with all text so far, and usage at both ends", async () => {
    const call = await started(saltpan());
    const { type, text } = await call("POST", "/models/pan-brief/speak", key, { talk, live: true });
    expect(type).toBe("text/event-stream");
    const events = text.split("\n\n").flatMap((event) => {
      const [, name, data] = /^event: (\w+)\ndata: (.*)$/.exec(event) ?? [];
      return name ? [{ name, data: JSON.parse(data ?? "null") }] : [];
    });
    expect([events[0]?.name, events.at(-1)?.name]).toEqual(["opened", "closed"]);
    const said = events.filter(({ name }) => name === "said").map(({ data }) => data.sofar as string);
    said.reduce((before, sofar) => {
      expect(sofar.startsWith(before) && sofar.length > before.length).toBe(true);
      return sofar;
    });
    const whole = await call("POST", "/models/pan-brief/speak", key, { talk });
    expect(whole.json()).toMatchObject({ said: said.at(-1), because: "done" });
    expect(events[0]?.data.counted.in).toBe(whole.json().counted.in);
    expect(events.at(-1)?.data.counted.out).toBe(said.length);
  });

  it("heeds the manner, its limits and its halting words", async () => {
    const call = await started(saltpan());
    const speak = async (body: object) =>
      (await call("POST", "/models/pan-clear/speak", key, { talk, ...body })).json();
    expect((await speak({ manner: 'End every reply with "Mind the gap."' })).said).toMatch(/Mind the gap\.$/);
    expect(await speak({ dials: { longest: 40 } })).toMatchObject({ counted: { out: expect.any(Number) } });
    expect((await call("POST", "/models/pan-brief/speak", key, { talk, dials: { longest: 2 } })).json()).toMatchObject({
      because: "longest",
      counted: { out: 2 },
    });
    const story = [{ by: "guest", words: "Tell me a story" }];
    const halted = (await call("POST", "/models/pan-brief/speak", key, { talk: story, dials: { halt: ["."] } })).json();
    expect([halted.because, halted.said.includes(".")]).toEqual(["halted", false]);
  });

  it.each([
    ["a wrong key", { "x-pan-key": "no" }, { talk }, 401, "no-entry"],
    ["two guests in a row", key, { talk: [...talk, ...talk] }, 422, "not-understood"],
    ["the last word with the host", key, { talk: [...talk, { by: "host", words: "Aye" }] }, 422, "not-understood"],
    ["empty words", key, { talk: [{ by: "guest", words: " " }] }, 422, "not-understood"],
    ["more than it holds", key, { talk: [{ by: "guest", words: "boat ".repeat(13_000) }] }, 413, "too-much"],
  ])("refuses %s in its own words", async (_what, headers, body, status, sort) => {
    const call = await started(saltpan());
    const refused = await call("POST", "/models/pan-clear/speak", headers as Record<string, string>, body);
    expect([refused.status, refused.json().fault.sort]).toEqual([status, sort]);
  });
});

describe("Tidegate", () => {
  const pass = `?pass=${tideKey}`;
  const course = [{ voice: "caller", parts: [{ words: "Hello" }] }];
  const trim = { ceiling: 200 };

  it("writes one JSON array that grows, text in pieces, usage at both ends", async () => {
    const call = await started(tidegate());
    const { text, json } = await call("POST", `/tides/flow${pass}`, {}, { tide: "tide-wide", course, trim });
    const elements = json() as {
      n: number;
      parts?: { kind: string; words: string }[];
      turned?: string;
      spent?: object;
    }[];
    expect(text.split(",\n").length).toBe(elements.length);
    expect(elements.map(({ n }) => n)).toEqual(elements.map((_, at) => at + 1));
    const words = (kind: string) =>
      elements
        .flatMap(({ parts = [] }) => parts.filter((part) => part.kind === kind).map((part) => part.words))
        .join("");
    expect(words("musing")).toContain("greeting");
    expect(elements[0]?.spent).toMatchObject({ read: expect.any(Number) });
    expect(elements.at(-1)).toMatchObject({ turned: "ebb", spent: { written: elements.length - 2 } });
    const whole = (await call("POST", `/tides/answer${pass}`, {}, { tide: "tide-wide", course, trim })).json();
    expect(
      whole.parts
        .filter(({ kind }: { kind: string }) => kind === "words")
        .map(({ words }: { words: string }) => words)
        .join(""),
    ).toBe(words("words"));
  });

  it.each([
    ["no output limit", { tide: "tide-neap", course }, 400, "T-2"],
    ["an unknown tide, inside of a 200", { tide: "tide-gone", course, trim }, 200, "T-4"],
    ["too much, inside of a 200", { tide: "tide-neap", course, trim: { ceiling: 9_000 } }, 200, "T-5"],
    ["a keeper who begins twice", { tide: "tide-neap", course: [...course, ...course], trim }, 400, "T-2"],
  ])("answers %s", async (_what, body, status, no) => {
    const call = await started(tidegate());
    const refused = await call("POST", `/tides/flow${pass}`, {}, body);
    expect([refused.status, refused.json().trouble.no]).toEqual([status, no]);
    expect((await call("GET", "/tides", {})).status).toBe(403);
  });
});

describe("Lantern", () => {
  const dated = { "lantern-version": version };
  const lines = [{ who: "asker", line: "Hello" }];

  it("writes a line for each token, and counts and durations in the last", async () => {
    const call = await started(lantern());
    expect((await call("GET", "/lamps", dated)).json().lamps).toEqual([
      { name: "lantern-one", room: 1024, here: true, lit: false },
      { name: "lantern-dim", room: 4096, here: true, lit: false },
      { name: "lantern-far", room: 2048, here: false, lit: false },
    ]);
    const { type, text } = await call("POST", "/lamps/shine", dated, { lamp: "lantern-one", lines });
    expect(type).toBe("application/x-ndjson");
    const documents = text
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(documents.at(-1)).toMatchObject({
      out: true,
      why: "burnt down",
      counted: { shone: documents.length - 1 },
      took: { loadMs: expect.any(Number) },
    });
    const whole = (await call("POST", "/lamps/shine", dated, { lamp: "lantern-one", lines, flow: false })).json();
    expect(documents.map(({ line = "" }) => line).join("")).toBe(whole.line);
    expect((await call("GET", "/lamps", dated)).json().lamps[0].lit).toBe(true);
  });

  it("takes what stands before the first message as its prompt", async () => {
    const call = await started(lantern());
    const told = [{ who: "asker", line: 'Speak plainly. End every reply with "Mind the gap."\n\nHello' }];
    expect(
      (await call("POST", "/lamps/shine", dated, { lamp: "lantern-one", lines: told, flow: false })).json().line,
    ).toMatch(/Mind the gap\.$/);
  });

  it.each([
    ["no version", {}, { lamp: "lantern-one", lines }, "old wick"],
    ["an unknown lamp", dated, { lamp: "lantern-two", lines }, "no lamp"],
    [
      "more than its small room",
      dated,
      { lamp: "lantern-one", lines: [{ who: "asker", line: "boat ".repeat(1100) }] },
      "no room",
    ],
  ])("refuses %s", async (_what, headers, body, sort) => {
    const call = await started(lantern());
    expect((await call("POST", "/lamps/shine", headers as Record<string, string>, body)).json().sort).toBe(sort);
  });
});

describe("Bellhouse", () => {
  const input = "Rule: Be brief.\nGuest: My name is Ivo.\nHost: Noted.\nGuest: What is my name?";
  const token = async (call: Awaited<ReturnType<typeof started>>) => {
    const { json } = await call("POST", "/bells/token", {}, { ringer: sampleId, word: sampleSecret });
    return { "bell-pass": json().pass as string };
  };

  it("answers once, from one text, to whoever has fetched a pass, once its bell hangs", async () => {
    const call = await started(bellhouse());
    const pass = await token(call);
    const ring = () => call("POST", "/bells/ring", pass, { bell: "bell-plain", input });
    expect([(await ring()).status, (await ring()).json().crack.code]).toEqual([409, "not hung"]);
    expect((await call("POST", "/bells/bell-plain/up", pass)).json()).toEqual({ bell: "bell-plain", hung: true });
    expect((await call("GET", "/bells", pass)).json().bells).toEqual([{ bell: "bell-plain", hung: true }]);
    const answer = (await ring()).json();
    expect(answer.peal).toEqual({
      text: expect.stringContaining("Ivo"),
      ended: "still",
      bell: "bell-plain of production",
    });
    expect(answer.tolls.heard).toBeGreaterThan(20);
    await call("DELETE", "/bells/bell-plain/up", pass);
    expect((await ring()).status).toBe(409);
  });

  it("gives no pass to strangers, and takes none that has run out", async () => {
    const call = await started(bellhouse({ passSeconds: 0, isHung: true }));
    expect((await call("POST", "/bells/token", {}, { ringer: "me", word: "x" })).status).toBe(401);
    const pass = await token(call);
    await expect.poll(async () => (await call("GET", "/bells", pass)).status).toBe(401);
    expect((await call("GET", "/bells", { "bell-pass": "made-up" })).json().crack.code).toBe("stranger");
  });
});

describe("manners that some APIs have", () => {
  const key = { "x-pan-key": saltKey };
  const v = { "lantern-version": version };

  it("a model is asked for, looked at for a while, and granted", async () => {
    const call = await started(saltpan());
    const speak = () =>
      call("POST", "/models/pan-sealed/speak", key, { talk: [{ by: "guest", words: "Hello" }], live: false });
    expect([(await speak()).status, (await speak()).json().fault.words]).toEqual([403, expect.stringContaining("ask")]);
    expect((await call("POST", "/models/pan-sealed/ask", key)).json().standing).toBe("it is looked at");
    expect((await speak()).json().fault.words).toContain("not granted yet");
    const granted = async () =>
      (await call("GET", "/models", key))
        .json()
        .models.find((each: { called: string }) => each.called === "pan-sealed");
    await expect.poll(async () => (await granted()).granted).toBe(true);
    expect((await speak()).status).toBe(200);
    expect((await call("POST", "/models/pan-none/ask", key)).status).toBe(404);
  });

  it("a local model is fetched first, and says how much of it has come", async () => {
    const call = await started(lantern());
    const shine = () =>
      call("POST", "/lamps/shine", v, { lamp: "lantern-far", lines: [{ who: "asker", line: "Hello" }], flow: false });
    expect((await shine()).json().sort).toBe("not here");
    const lines = (await call("POST", "/lamps/lantern-far/fetch", v)).text
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines.length).toBeGreaterThan(3);
    expect(lines.at(-1)).toMatchObject({ here: true, came: lines[0].of });
    expect((await shine()).status).toBe(200);
    expect((await call("POST", "/lamps/lantern-none/fetch", v)).status).toBe(404);
  });

  it("a local model cuts the front of what it hears, and does not say so", async () => {
    const call = await started(lantern());
    const ask = async (filler: number) => {
      const lines = [
        { who: "asker", line: "My name is Odile." },
        { who: "lamp", line: "Noted: your name is Odile." },
        { who: "asker", line: `${"The boat comes back at the half. ".repeat(filler)}What is my name?` },
      ];
      const answer = await call("POST", "/lamps/shine", v, { lamp: "lantern-dim", lines, flow: false });
      return [answer.status, /Odile/.test(answer.json().line)];
    };
    expect(await ask(10)).toEqual([200, true]);
    expect(await ask(150)).toEqual([200, false]);
  });

  it("an answer brings links of its own, where sources are asked for", async () => {
    const call = await started(tidegate());
    const ask = async (words: string, where: string) =>
      (
        await call(
          "POST",
          `/tides/${where}?pass=${tideKey}`,
          {},
          {
            tide: "tide-wide",
            course: [{ voice: "caller", parts: [{ words }] }],
            trim: { ceiling: 200 },
          },
        )
      ).json();
    const links = [{ name: "Fares and tickets", at: "https://saltmarsh.example/fares" }];
    expect((await ask("What does a ticket cost? Name your sources.", "answer")).links).toEqual(links);
    expect((await ask("What does a ticket cost? Name your sources.", "flow")).at(-1).links).toEqual(links);
    expect((await ask("What does a ticket cost?", "answer")).links).toBeUndefined();
  });

  it("a model answers only what is sealed, and says so in words of its own", async () => {
    const call = await started(tidegate());
    const body = {
      tide: "tide-sealed",
      course: [{ voice: "caller", parts: [{ words: "Hello" }] }],
      trim: { ceiling: 50 },
    };
    const ask = async (seal?: string) =>
      (await call("POST", `/tides/answer?pass=${tideKey}`, seal ? { "tide-seal": seal } : {}, body)).json();
    expect((await ask()).trouble).toMatchObject({ no: "T-6" });
    expect((await ask("0".repeat(64))).trouble).toMatchObject({ no: "T-6" });
    const seal = createHmac("sha256", tideKey).update(JSON.stringify(body)).digest("hex");
    expect((await ask(seal)).turned).toBe("ebb");
  });

  it("trial and production differ by a value in a header", async () => {
    const call = await started(bellhouse({ isHung: true }));
    const { json } = await call("POST", "/bells/token", {}, { ringer: sampleId, word: sampleSecret });
    const ring = async (house: string) =>
      (
        await call(
          "POST",
          "/bells/ring",
          { "bell-pass": json().pass, "bell-house": house },
          {
            bell: "bell-plain",
            input: "Guest: Write a long story of a crossing.",
          },
        )
      ).json();
    expect((await ring("trial")).peal).toMatchObject({ ended: "cut short", bell: "bell-plain of trial" });
    expect((await ring("production")).peal).toMatchObject({ ended: "still", bell: "bell-plain of production" });
    expect((await ring("belfry")).crack.code).toBe("no house");
  });
});

describe("fault plans, whatever the shape", () => {
  const talk = [{ by: "guest", words: "When do boats go to Brindle — and why?" }];
  const faulty = async (plan: object) => {
    const call = await started(saltpan());
    await call("PUT", "/standin/fault", {}, plan);
    return call("POST", "/models/pan-brief/speak", { "x-pan-key": saltKey }, { talk, live: true });
  };

  it.each([
    [{ fault: "status", status: 503 }, 503, /"sort":"planned-503"/],
    [{ fault: "page" }, 200, /sign in to the harbour/],
    [{ fault: "no-usage" }, 200, /^(?!.*counted)/s],
    [{ fault: "wrong-usage" }, 200, /"in":"plenty"/],
    [{ fault: "twice", after: 0 }, 200, /(event: said\ndata: \S.*\n\n)\1/],
    [{ fault: "cut-at-every-byte" }, 200, /event: closed/],
  ])("%j does what it says", async (plan, status, shape) => {
    const answer = await faulty(plan);
    expect(answer.status).toBe(status);
    expect(answer.text).toMatch(shape);
  });
});
