import { afterEach, describe, expect, it, vi } from "vitest";
import { longestResult, type Tool, toolSchema } from "@/core/tools/tool";
import { bodyOf, TestProvider } from "../test/provider";
import { answering, type ToolMeans } from "./answering";
import { OpenCalls, type Said } from "./open-calls";

const never = new AbortController().signal;
const means = (given: Partial<ToolMeans> = {}): ToolMeans => ({
  runsCommands: true,
  secretOf: (app, name) =>
    app === "app_1" && name === "QUAY_KEY" ? { value: "k-1234567890" } : { missing: `the app is given no ${name}` },
  openCalls: new OpenCalls(),
  ...given,
});
const tool = (answer: object, more: object = {}): Tool =>
  toolSchema.parse({
    name: "places_left",
    description: "Places left on a boat.",
    parameters: { type: "object", properties: { boat: { type: "string" } }, required: ["boat"] },
    answer,
    ...more,
  });
const asked = { call: "c1", name: "places_left", arguments: { boat: "9:40" } };
const called = (of: Tool, toolMeans = means(), reply?: string, given: unknown = asked.arguments) =>
  answering([of], { toolMeans }, { app: "app_1", reply })(
    { ...asked, arguments: given as { boat: string } },
    never,
    () => {},
  );

let servers: TestProvider[] = [];
afterEach(() => {
  for (const server of servers) server.stop();
  servers = [];
});

describe("a call of a tool is answered", () => {
  it("from a table: by the first row that fits, or as it says where none does", async () => {
    const rows = [
      { when: { boat: "8:10" }, text: "none" },
      { when: { boat: "9:40" }, text: "3" },
    ];
    expect(await called(tool({ by: "table", rows }))).toEqual({ outcome: "answered", result: "3" });
    const other = { boat: "17:30" };
    expect(await called(tool({ by: "table", rows }), means(), undefined, other)).toMatchObject({ outcome: "failed" });
    expect(await called(tool({ by: "table", rows, otherwise: "many" }), means(), undefined, other)).toEqual({
      outcome: "answered",
      result: "many",
    });
  });

  it("by an address that is filled, with headers whose secrets stand in nothing that is told", async () => {
    const came: unknown[] = [];
    const server = await TestProvider.start(async (request, response) => {
      came.push([request.method, request.url, request.headers["x-quay-key"], await bodyOf(request)]);
      response.end(`3 left, says k-1234567890`);
    });
    servers.push(server);
    const headers = [{ name: "X-Quay-Key", value: "$QUAY_KEY" }];
    const address = { by: "address", url: `${server.address}/boats/{boat}`, headers, allowsThisMachine: true };
    const { outcome, result } = await called(tool({ ...address, method: "PUT", body: { seats: 2, on: "{boat}" } }));
    expect(came).toEqual([["PUT", "/boats/9%3A40", "k-1234567890", '{"seats":2,"on":"9:40"}']]);
    expect(outcome).toBe("answered");
    expect(result).not.toContain("1234567890");
    // what is missing is named, and nothing is called
    const unset = { ...address, headers: [{ name: "X-Key", value: "Bearer $NOT_SET" }] };
    expect(await called(tool(unset))).toMatchObject({ outcome: "failed", result: expect.stringContaining("NOT_SET") });
    expect(await called(tool({ ...address, allowsThisMachine: undefined }))).toMatchObject({ outcome: "failed" });
    expect(came).toHaveLength(1);
  });

  it("by a command, which gets the call and nothing of our environment, where commands are switched on", async () => {
    const script = 'let s="";process.stdin.on("data",d=>s+=d).on("end",()=>console.log(s+(process.env.QUAY_KEY??"")))';
    const command = { by: "command", command: `node -e '${script}'` };
    process.env.QUAY_KEY = "k";
    const { outcome, result } = await called(tool(command));
    delete process.env.QUAY_KEY;
    expect([outcome, result?.trim()]).toEqual(["answered", '{"name":"places_left","arguments":{"boat":"9:40"}}']);
    expect(await called(tool(command), means({ runsCommands: false }))).toMatchObject({
      outcome: "failed",
      result: expect.stringContaining("not switched on"),
    });
    expect(await called(tool({ by: "command", command: "node -e 'process.exit(3)'" }))).toMatchObject({
      outcome: "failed",
    });
    const slow = tool({ by: "command", command: "node -e 'setInterval(()=>{},99)'" }, { seconds: 0.2 });
    expect(await called(slow)).toMatchObject({ outcome: "timed-out" });
  });

  it("by hand, once somebody does; by nobody where nobody is there", async () => {
    const toolMeans = means();
    const waits: unknown[] = [];
    const answer = answering([tool({ by: "hand" })], { toolMeans }, { app: "app_1", reply: "rep_1" })(
      asked,
      never,
      (of) => waits.push(of),
    );
    expect(waits).toEqual(["hand"]);
    const of = { reply: "rep_1", call: "c1" };
    expect(toolMeans.openCalls.waitsFor(of)).toBe("hand");
    toolMeans.openCalls.say(of, { kind: "answer", result: "3", hasFailed: false });
    toolMeans.openCalls.say(of, { kind: "answer", result: "4", hasFailed: false });
    expect(await answer).toEqual({ outcome: "answered", result: "3" });
    expect([waits, toolMeans.openCalls.waitsFor(of)]).toEqual([["hand", undefined], undefined]);
    expect(await called(tool({ by: "hand" }))).toMatchObject({ outcome: "timed-out" });
  });

  it("by its caller, who is waited for a quarter of an hour", async () => {
    vi.useFakeTimers();
    try {
      const toolMeans = means();
      const waits: unknown[] = [];
      const answer = answering([tool({ by: "caller" })], { toolMeans }, { app: "app_1", reply: "rep_1" })(
        asked,
        never,
        (of) => waits.push(of),
      );
      expect(toolMeans.openCalls.waitsFor({ reply: "rep_1", call: "c1" })).toBe("caller");
      await vi.advanceTimersByTimeAsync(15 * 60_000 - 1);
      expect(waits).toEqual(["caller"]);
      await vi.advanceTimersByTimeAsync(1);
      expect(await answer).toEqual({ outcome: "timed-out", result: "Nobody answered places_left." });
      expect(toolMeans.openCalls.waitsFor({ reply: "rep_1", call: "c1" })).toBeUndefined();
    } finally {
      vi.useRealTimers();
    }
  });

  it.each<[Said, string]>([
    [{ kind: "leave", isAllowed: true }, "answered"],
    [{ kind: "leave", isAllowed: false }, "declined"],
  ])("only where leave is given for it: %j", async (said, outcome) => {
    const toolMeans = means();
    const answer = called(tool({ by: "text", text: "3" }, { asks: true }), toolMeans, "rep_1");
    expect(toolMeans.openCalls.waitsFor({ reply: "rep_1", call: "c1" })).toBe("leave");
    toolMeans.openCalls.say({ reply: "rep_1", call: "c1" }, said);
    expect((await answer).outcome).toBe(outcome);
  });

  it("where nobody could be asked, as in a trial, only if that changes nothing anywhere", async () => {
    expect((await called(tool({ by: "text", text: "3" }, { asks: true }))).outcome).toBe("answered");
    const address = { by: "address", url: "http://127.0.0.1:1/", allowsThisMachine: true };
    expect((await called(tool(address, { asks: true }))).outcome).toBe("declined");
    expect((await called(tool({ by: "command", command: "true" }, { asks: true }))).outcome).toBe("declined");
  });

  it("no more once it was stopped", async () => {
    const stop = new AbortController();
    const toolMeans = means();
    const answer = answering([tool({ by: "hand" })], { toolMeans }, { app: "app_1", reply: "rep_1" })(
      asked,
      stop.signal,
      () => {},
    );
    stop.abort();
    expect(await answer).toEqual({ outcome: "stopped" });
    expect(toolMeans.openCalls.waitsFor({ reply: "rep_1", call: "c1" })).toBeUndefined();
  });

  it("not with arguments that do not fit: once a mend is asked for, and then no more", async () => {
    const call = answering([tool({ by: "text", text: "3" })], { toolMeans: means() }, { app: "app_1" });
    const wrong = { ...asked, arguments: {} };
    expect((await call(wrong, never, () => {})).result).toContain("Call it once more with arguments that fit.");
    expect((await call(wrong, never, () => {})).result).toContain("Do not call it again.");
  });

  it("by no address that leads inward, answers without measure, or never ends: each is bounded, and named", async () => {
    let written = 0;
    const server = await TestProvider.start((request, response) => {
      const pour = () => {
        // a reader that goes away ends it
        while (written < 100 * 1024 * 1024 && !response.destroyed) {
          written += 65_536;
          if (!response.write(Buffer.alloc(65_536, "x"))) return response.once("drain", pour);
        }
        return response.end();
      };
      if (request.url?.startsWith("/inward")) response.writeHead(302, { location: "http://10.0.0.7/" }).end();
      else if (request.url?.startsWith("/much")) pour();
      else {
        const drip = setInterval(() => response.write("."), 20);
        response.once("close", () => clearInterval(drip));
      }
    });
    servers.push(server);
    const by = (url: string, more: object = {}) =>
      called(tool({ by: "address", url, method: "GET", allowsThisMachine: true }, more));
    expect(await by("http://10.0.0.7/places")).toMatchObject({
      outcome: "failed",
      result: expect.stringContaining("10.0.0.7"),
    });
    expect(await by(`${server.address}/inward`)).toMatchObject({
      outcome: "failed",
      result: expect.stringContaining("10.0.0.7"),
    });
    expect(await by(`${server.address}/much`)).toMatchObject({
      outcome: "failed",
      result: expect.stringMatching(/larger|more than/),
    });
    expect(written).toBeLessThan(50 * 1024 * 1024);
    expect(await by(`${server.address}/ever`, { seconds: 0.3 })).toEqual({
      outcome: "timed-out",
      result: "places_left did not answer within 0.3 s.",
    });
  });

  it("with as much as a model is told, and says where that is cut", async () => {
    const server = await TestProvider.start((_request, response) => response.end("x".repeat(longestResult + 10)));
    servers.push(server);
    const { result = "" } = await called(tool({ by: "address", url: server.address, allowsThisMachine: true }));
    expect(result.slice(longestResult)).toBe(`\n[Cut after ${longestResult} characters, of ${longestResult + 10}.]`);
  });
});
