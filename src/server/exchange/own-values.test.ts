import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { ChangeProvider } from "@/contract/providers";
import { tryOut } from "../probing/try";
import { changeProvider, wireProvider } from "../providers/wiring";
import { testFolder } from "../test/folder";
import { bodyOf, TestProvider } from "../test/provider";

/** A request as the test's provider got it. */
interface Got {
  url: string;
  headers: Record<string, unknown>;
  body: string;
}

let { home, remove } = testFolder();
remove();
let server: TestProvider;
let got: Got[] = [];
beforeEach(async () => {
  ({ home, remove } = testFolder());
  got = [];
  server = await TestProvider.start(async (request, response) => {
    got.push({ url: request.url ?? "", headers: request.headers, body: await bodyOf(request) });
    response.writeHead(200, { "content-type": "application/json" }).end('{"t":"Aye."}');
  });
});
afterEach(() => {
  server.stop();
  delete process.env.FERRY_REGION;
  delete process.env.FINCH_COMMANDS;
  remove();
});

const profile = {
  profile: 1,
  shape: "Values",
  request: {
    method: "POST",
    path: "/say/<value:project>",
    query: { region: "<value:region>" },
    headers: { "content-type": "application/json", "x-space": "<value:space>" },
    body: { say: { "<each>": "messages", as: "<text>" } },
  },
  values: [{ name: "project" }, { name: "region" }, { name: "space", default: "bench" }],
  roles: { visitor: "v", app: "a", prompt: "first" },
  answer: { whole: { rules: [{ text: "$.t" }] }, problem: { message: "$.e" } },
  finishWords: {},
};

/** Asks a provider of that profile, changed so, in an order of its own. */
async function ask(change: ChangeProvider) {
  const { port } = new URL(server.address);
  const { id } = wireProvider(home, {
    name: "Valued",
    address: `http://<value:host>:${port}`,
    profile: profile as never,
    credential: { kind: "none" },
    models: [{ name: "m", window: 1_000, price: { input: 0, output: 0, currency: "EUR" } }],
  });
  changeProvider(home, id, change);
  const provider = home.providers.byId(id);
  if (!provider) throw new Error("It was not wired.");
  const messages = [{ role: "visitor" as const, pieces: [{ kind: "text" as const, text: "Hi" }] }];
  const order = { purpose: "try" as const, model: "m", messages, streams: false };
  return { home, ...(await tryOut(home, provider, order)) };
}

describe("values of a provider's own", () => {
  it("stand in address, path, query and headers, and trial and production differ by them alone", async () => {
    process.env.FERRY_REGION = "north east";
    const values = { host: "127.0.0.1", project: "trial", region: "$FERRY_REGION" };
    await ask({ values });
    expect(got[0]).toMatchObject({ url: "/say/trial?region=north%20east", headers: { "x-space": "bench" } });
    const id = home.providers.byName("Valued")?.id ?? "";
    changeProvider(home, id, { values: { ...values, project: "production", space: "live" } });
    expect(home.providers.byId(id)?.values).toEqual({ ...values, project: "production", space: "live" });
  });

  it.each([
    [{ host: "127.0.0.1", project: "p" }, "The value region of Valued is not set."],
    [{ host: "127.0.0.1", project: "p", region: "$FERRY_REGION" }, "is $FERRY_REGION, and that variable is not set."],
    [{ project: "p", region: "r" }, "The value host of Valued is not set."],
  ])("are named where one is missing: %j", async (values, detail) => {
    const { answer } = await ask({ values });
    expect(answer.problem).toMatchObject({ kind: "misconfigured", detail: expect.stringContaining(detail) });
    expect(got).toEqual([]);
  });

  it("lead nowhere else", async () => {
    const { answer } = await ask({ values: { host: "127.0.0.1:1/x?", project: "p", region: "r" } });
    expect(answer.problem?.kind).toBe("misconfigured");
    expect(got).toEqual([]);
  });
});

describe("a request that a command signs", () => {
  const values = { host: "127.0.0.1", project: "p", region: "r" };
  const script = (text: string) => `node -e '${text}'`;
  const reading = 'let t="";process.stdin.on("data",d=>t+=d).on("end",()=>{const r=JSON.parse(t);';

  it("goes out with the headers that it prints, which it made of all of it", async () => {
    process.env.FINCH_COMMANDS = "on";
    remove();
    ({ home, remove } = testFolder());
    const signing = script(
      `${reading}const h=require("crypto").createHash("sha256").update(r.method+r.url+r.body).digest("hex");console.log("X-Signed: "+h+" "+r.headers["x-space"])})`,
    );
    await ask({ values, signing });
    const { createHash } = await import("node:crypto");
    const hash = createHash("sha256").update(`POST${server.address}/say/p?region=r${got[0]?.body}`).digest("hex");
    expect(got[0]?.headers["x-signed"]).toBe(`${hash} bench`);
  });

  it.each([
    [script('console.log(JSON.stringify({A:"1"}))'), undefined],
    [script(""), "printed no headers"],
    [script('console.error("no seal");process.exit(3)'), "ended with 3: no seal"],
    ["no-such-program-here", "is not there"],
    ["node | tee", "only a shell understands"],
  ])("is not sent where the command %s fails", async (signing, detail) => {
    process.env.FINCH_COMMANDS = "on";
    remove();
    ({ home, remove } = testFolder());
    const { answer } = await ask({ values, signing });
    if (detail === undefined) expect(got[0]?.headers.a).toBe("1");
    else {
      expect(answer.problem).toMatchObject({ kind: "misconfigured", detail: expect.stringContaining(detail) });
      expect(got).toEqual([]);
    }
  });

  it("is not sent where commands may not run", async () => {
    const { answer } = await ask({ values, signing: "node" });
    expect(answer.problem?.advice).toContain("FINCH_COMMANDS=on");
    expect(got).toEqual([]);
  });
});
