import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { z } from "zod";
import { refuse } from "../refusal";
import { testFolder } from "../test-folder";
import { visitorCookie, visitorOf } from "./caller";
import { bodyOf, bodyText, largestBody, route } from "./route";
import { benchStream, ndjson, replyStream, sse } from "./streams";

const params = { params: Promise.resolve({ slug: "quay-desk" }) };
const asking = (method: string, body?: string, headers: Record<string, string> = {}) =>
  new Request("http://localhost/api", { method, body, headers });

describe("a route", () => {
  const { GET, HEAD, POST, PUT, OPTIONS } = route<{ slug: string }>(
    {
      GET: (_request, { slug }) => new Response(slug),
      POST: async (request) => Response.json(await bodyOf(request, z.strictObject({ name: z.string() }))),
    },
    (_request, { slug }) => `curl ${slug}`,
  );

  it("answers the methods that it has, with the parts of its address", async () => {
    expect(await (await GET(asking("GET"), params)).text()).toBe("quay-desk");
    expect((await HEAD(asking("HEAD"), params)).status).toBe(200);
    expect(await (await POST(asking("POST", '{"name":"a"}'), params)).json()).toEqual({ name: "a" });
  });

  it("answers any other with 405, Allow, and a command that works", async () => {
    const response = await PUT(asking("PUT"), params);
    expect([response.status, response.headers.get("allow")]).toEqual([405, "GET, HEAD, POST, OPTIONS"]);
    expect(await response.json()).toMatchObject({ kind: "wrong-method", example: "curl quay-desk" });
    expect((await OPTIONS(asking("OPTIONS"), params)).headers.get("allow")).toBe("GET, HEAD, POST, OPTIONS");
  });

  it("makes a problem document of a refusal", async () => {
    const { GET } = route({ GET: () => refuse("busy", "Reply r1 is still arriving.", { reply: "r1" }) });
    const response = await GET(asking("GET"), { params: Promise.resolve({}) });
    expect([response.status, response.headers.get("content-type")]).toEqual([409, "application/problem+json"]);
    expect(await response.json()).toMatchObject({ kind: "busy", reply: "r1" });
  });

  it.each([
    ["{", "bad-request", /not JSON/],
    ["", "bad-request", /empty/],
    ['{"name":1}', "bad-request", /`name`/],
  ])("refuses the body %j", async (body, kind, detail) => {
    const problem = await (await POST(asking("POST", body), params)).json();
    expect(problem).toMatchObject({ kind, detail: expect.stringMatching(detail), example: "curl quay-desk" });
  });

  it("reads a body up to its limit, and no byte further", async () => {
    expect(await bodyText(asking("POST", "ä".repeat(largestBody / 2)))).toHaveLength(largestBody / 2);
    await expect(bodyText(asking("POST", "x".repeat(largestBody + 1)))).rejects.toThrow(/more than/);
  });
});

describe("streams", () => {
  let { home, remove } = testFolder();
  remove();
  let reply = "";
  let conversation = "";
  beforeEach(() => {
    ({ home, remove } = testFolder());
    const app = home.apps.make(
      "A",
      { prompt: "", variables: {}, provider: "p", model: "m", settings: {}, memory: { kind: "everything" } },
      1,
    );
    conversation = home.conversations.create({ app: app.id, visitor: null, opening: "", now: 1 }).id;
    const said = home.conversations.addVisitorMessage({
      conversation,
      parent: undefined,
      pieces: [],
      tokens: 0,
      now: 1,
    });
    reply = home.conversations.addReply({
      conversation,
      parent: said,
      continues: null,
      facts: { revision: 1, provider: "p", model: "m" },
      now: 1,
    }).id;
    home.hub.begin(reply, conversation);
    home.hub.publish(reply, { event: "text", data: { text: "Aye.\n" } });
  });
  afterEach(() => remove());
  const end = () => home.hub.publish(reply, { event: "end", data: { reason: "complete" } });

  it("of server-sent events hold what was and what comes, and end with the reply", async () => {
    const response = replyStream(home.hub, reply, 0, sse);
    end();
    expect(await response.text()).toBe(
      'id: 1\nevent: text\ndata: {"text":"Aye.\\n"}\n\nid: 2\nevent: end\ndata: {"reason":"complete"}\n\n',
    );
    expect(response.headers.get("cache-control")).toBe("no-store, no-transform");
  });

  it("of NDJSON hold a line for each event, after the one that is named", async () => {
    end();
    const text = await replyStream(home.hub, reply, 1, ndjson).text();
    expect(text).toBe('{"id":2,"event":"end","data":{"reason":"complete"}}\n');
  });

  it("of the bench go on after a position, and name the reply and its conversation", async () => {
    const reader = benchStream(home.hub, home.events.afterPosition(0, 10)).body?.getReader();
    end();
    let text = "";
    while (!text.includes('"end"')) text += new TextDecoder().decode((await reader?.read())?.value);
    await reader?.cancel();
    const [first, second] = text
      .split("\n\n")
      .slice(1, 3)
      .map((each) => JSON.parse(each.split("data: ")[1] ?? ""));
    expect(first).toEqual({ reply, conversation, event: { id: 1, event: "text", data: { text: "Aye.\n" } } });
    expect(second.event).toMatchObject({ id: 2, event: "end" });
  });
});

describe("who calls", () => {
  it("is told by a cookie that was signed here, and by no other", () => {
    const { home, remove } = testFolder();
    const visitor = home.visitors.add(1);
    const cookie = visitorCookie(home, visitor)["set-cookie"]?.split(";")[0] ?? "";
    const of = (cookie: string) => visitorOf(home, asking("GET", undefined, { cookie }));
    expect(of(`a=b; ${cookie}`)).toBe(visitor);
    expect(of(`finch_visitor=${visitor}.forged`)).toBeUndefined();
    expect(of("")).toBeUndefined();
    remove();
  });
});
