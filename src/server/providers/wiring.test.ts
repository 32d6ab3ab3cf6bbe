import type { RequestListener } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { parse } from "@/contract/parse";
import { type WireProvider, wireProviderSchema } from "@/contract/providers";
import { standingSchema } from "@/contract/tries";
import { shown } from "@/core/guards/test/parts";
import type { WrittenProfile } from "@/core/wire/profile-schema";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { providerAnswer } from "../answers/providers";
import type { StoredApp } from "../apps/app-store";
import { deleteProvider } from "../apps/naming";
import { offeredProviders, standingOf } from "../probing/standing";
import { testFolder } from "../test/folder";
import { TestProvider } from "../test/provider";
import { changeProvider, providerAt, wireProvider } from "./wiring";

let { home, remove } = testFolder();
remove();
let server: TestProvider | undefined;
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => {
  server?.stop();
  delete process.env.FINCH_STANDINS;
  delete process.env.TEST_KEY;
  remove();
});

async function serving(answer: RequestListener): Promise<string> {
  server = await TestProvider.start(answer);
  return server.address;
}

const model = { name: "m", window: 100, price: { input: 1, output: 2, currency: "EUR" } };
const named = { kind: "key" as const, secret: { variable: "TEST_KEY" } };
const wiring = (change: Partial<WireProvider> = {}): WireProvider => ({
  name: "Test",
  address: "http://127.0.0.1:1",
  profile: "chat-completions",
  credential: { kind: "none" },
  models: [model],
  ...change,
});

describe("wiring a provider", () => {
  it("stores it with its models; whether its key is there is said, never the key", () => {
    process.env.TEST_KEY = "secret-key";
    const view = providerAnswer(home, wireProvider(home, wiring({ credential: named })));
    const secret = { variable: "TEST_KEY", isSet: true };
    expect(view).toMatchObject({ name: "Test", credential: { kind: "key", secret }, models: [model], apps: 0 });
    expect(JSON.stringify(view)).not.toContain("secret-key");
  });

  it("refuses a name that is taken, and a profile that is not shipped", () => {
    wireProvider(home, wiring());
    expect(() => wireProvider(home, wiring({ name: "test" }))).toThrow(/a provider Test already/);
    expect(() => wireProvider(home, wiring({ name: "Other", profile: "smoke" }))).toThrow(
      /no wire profile smoke; there are chat-completions, named-events/,
    );
  });

  it("refuses prices in another currency than those there are, and changes nothing then", () => {
    const { id } = wireProvider(home, wiring());
    const other = { ...model, price: { ...model.price, currency: "NOK" } };
    expect(() => wireProvider(home, wiring({ name: "Other", models: [other] }))).toThrow(/m has its price in NOK/);
    expect(home.providers.byName("Other")).toBeUndefined();
    // the only one there is may change its own
    expect(home.providers.models(changeProvider(home, id, { models: [other] }).id)[0]?.price.currency).toBe("NOK");
  });

  it("keeps prices of what is cached and of reasoning, and their absence", () => {
    const prices = { input: 1, output: 2, cachedInput: 0.1, cacheWrite: 1.25, thought: 3, currency: "EUR" };
    const { id } = wireProvider(
      home,
      wiring({
        models: [
          { ...model, price: prices },
          { ...model, name: "n" },
        ],
      }),
    );
    expect(home.providers.models(id).map(({ price }) => price)).toEqual([prices, model.price]);
  });

  it.each([
    [{ credential: { kind: "key", secret: { value: "one\ntwo" } } }, /`credential.*line break/],
    [{ headers: { "x-team": "a\r\nhost: elsewhere" } }, /`headers.x-team` holds a line break/],
    [{ headers: { "x team": "a" } }, /is not the name of a header/],
    [{ address: "http://[" }, /`address` is not an http or https address/],
    [{ models: [{ ...model, window: 1e300 }] }, /`models\[0\].window`/],
    [{ models: [{ ...model, price: { input: 1e308, output: 1, currency: "EUR" } }] }, /`models\[0\].price.input`/],
    [
      {
        credential: {
          kind: "token",
          url: "http://[",
          send: "json",
          body: {},
          id: { variable: "A" },
          secret: { variable: "B" },
          token: "$.t",
        },
      },
      /neither an address nor a path/,
    ],
  ])("refuses %j where it is typed", (change, reason) => {
    const parsed = parse(wireProviderSchema, { ...wiring(), ...change });
    expect(parsed.ok ? "taken" : parsed.problem.detail).toMatch(reason);
  });

  it("changes what is given and leaves the rest", () => {
    const { id } = wireProvider(home, wiring({ credential: named }));
    changeProvider(home, id, { address: "http://127.0.0.1:2" });
    expect(providerAt(home, id)).toMatchObject({ address: "http://127.0.0.1:2", credential: named });
    changeProvider(home, id, { credential: { kind: "none" } });
    expect(providerAt(home, id)).toMatchObject({ address: "http://127.0.0.1:2", credential: { kind: "none" } });
  });

  it("does not delete one that an app speaks through, and says which", () => {
    const { id, slug } = wireProvider(home, wiring());
    const app = home.apps.make(
      "Quay Desk",
      { prompt: "", variables: {}, provider: slug, model: "m", settings: {}, memory: { kind: "everything" } },
      1,
    );
    expect(() => deleteProvider(home, id)).toThrow(/Test is still used by Quay Desk/);
    home.apps.leave(app.id);
    deleteProvider(home, id);
    expect(() => providerAt(home, id)).toThrow(/no provider/);
  });
});

describe("a provider that callers depend on", () => {
  it("is not deleted while a live revision speaks through it, or falls back to it", () => {
    const [first, second, third] = ["One", "Two", "Three"].map((name) => wireProvider(home, wiring({ name })));
    const content = { prompt: "", variables: {}, model: "m", settings: {}, memory: { kind: "everything" as const } };
    const live = { ...content, provider: first?.slug ?? "", fallbacks: [{ provider: second?.slug ?? "", model: "m" }] };
    const app = home.apps.make("Quay Desk", live, 1);
    home.apps.setDraft(app, { ...content, provider: third?.slug ?? "" }, 1);
    for (const each of [first, second, third])
      expect(() => deleteProvider(home, each?.id ?? "")).toThrow(/used by Quay Desk/);
    home.apps.leave(app.id);
    for (const each of [first, second, third]) deleteProvider(home, each?.id ?? "");
    expect(home.providers.all()).toEqual([]);
  });
});

describe("the lasting name of a provider", () => {
  it("stays when it is renamed, and is never given to another, also when it is gone", () => {
    const first = wireProvider(home, wiring({ name: "Reed Bed" }));
    expect(changeProvider(home, first.id, { name: "Marsh" }).slug).toBe("reed-bed");
    const second = wireProvider(home, wiring({ name: "Reed Bed" }));
    expect(second.slug).toBe("reed-bed-2");
    deleteProvider(home, first.id);
    deleteProvider(home, second.id);
    expect(wireProvider(home, wiring({ name: "Reed Bed" })).slug).toBe("reed-bed-3");
  });
});

describe("a provider that an app names", () => {
  const content = {
    prompt: "",
    variables: {},
    provider: "other",
    model: "m",
    settings: {},
    memory: { kind: "everything" as const },
  };
  const judge = shown({ kind: "judge", rubric: "is kind", by: { provider: "named", model: "m" } }, "refuse");
  const summed = { kind: "summary", turns: 3, by: { provider: "named", model: "m" } } as const;
  it.each<[string, (app: StoredApp) => void]>([
    ["in the preview", (app) => home.apps.preview(app, { ...content, provider: "named" }, 1)],
    ["as the model that sums up", (app) => home.apps.setDraft(app, { ...content, memory: summed }, 1)],
    [
      "as the one that makes vectors",
      (app) =>
        home.apps.setDraft(
          app,
          { ...content, sources: { documents: [], meaning: { provider: "named", model: "m" } } },
          1,
        ),
    ],
    ["as a judge of replies", (app) => home.apps.setDraft(app, { ...content, guards: [judge] }, 1)],
    [
      "among the models that callers may choose",
      (app) => home.apps.setAccess(app, { ...app.access, models: [{ provider: "named", model: "m" }] }),
    ],
  ])("%s is not deleted", (_where, name) => {
    wireProvider(home, wiring({ name: "Other" }));
    const { id } = wireProvider(home, wiring({ name: "Named" }));
    const app = home.apps.make("Quay Desk", content, 1);
    name(app);
    expect(() => deleteProvider(home, id)).toThrow(/used by Quay Desk/);
    home.apps.leave(app.id);
    deleteProvider(home, id);
  });
});

describe("whether a provider answers", () => {
  const standing = async (answer: RequestListener, credential: WireProvider["credential"] = { kind: "none" }) =>
    standingOf(home, wireProvider(home, wiring({ address: await serving(answer), credential })));

  it("is told with the models that it lists, asked for with its key", async () => {
    process.env.TEST_KEY = "k-1";
    const found = await standing((request, response) => {
      expect([request.url, request.headers.authorization]).toEqual(["/v1/models", "Bearer k-1"]);
      response.end('{"data":[{"id":"one"},{"id":"two"}]}');
    }, named);
    const listed = (name: string) => ({ name, isOn: null, window: null });
    expect(found).toEqual({
      answeredMs: expect.any(Number),
      models: [listed("one"), listed("two")],
      problem: null,
      allowance: [],
      toldAt: null,
    });
  });

  it.each([
    ["a list without models", 200, '{"data":[]}', "bad-reply"],
    ["a page", 200, "<h1>Welcome</h1>", "bad-reply"],
    ["a wrong key", 401, '{"error":{"message":"who?"}}', "unauthorised"],
    ["a redirect", 302, "", "misconfigured"],
  ])("%s is a problem with a name", async (_what, status, body, kind) => {
    const found = await standing((_request, response) =>
      response.writeHead(status, { location: "/elsewhere" }).end(body),
    );
    expect(found).toMatchObject({ models: [], problem: { kind } });
  });

  it("takes a window for what it is only where it can be one", async () => {
    const profile = structuredClone(chatCompletions) as WrittenProfile;
    profile.models = { path: "/v1/models", list: "$.data[*]", name: "@.id", window: "@.window" };
    const windows = ["1e999", "-1", "2.5", '"8192"', "4096"];
    const list = windows.map((window, at) => `{"id":"m${at}","window":${window}}`).join(",");
    const address = await serving((_request, response) => response.end(`{"data":[${list}]}`));
    const found = await standingOf(home, wireProvider(home, wiring({ address, profile: profile as never })));
    expect(standingSchema.parse(found).models.map(({ window }) => window)).toEqual([null, null, null, 8192, 4096]);
  });

  it("is told with what its last answer said is left of its limits", async () => {
    const address = await serving((_request, response) => response.end('{"data":[{"id":"m"}]}'));
    const provider = wireProvider(home, wiring({ address }));
    const making = home.dispatches.make("try", null, [], 1);
    const prices = { input: 1, output: 1, currency: "EUR" };
    home.dispatches.begin(making, {
      id: "dis_1",
      round: 1,
      attempt: 1,
      providerId: provider.id,
      provider: "Test",
      model: "m",
      profileText: provider.profileText,
      request: { method: "POST", url: address, headers: {}, body: "" },
      ledger: null,
      prices,
      startedAt: 1,
    });
    home.dispatches.addChunk({ dispatch: "dis_1", seq: 0, at: 1, arrivals: "1:2", bytes: Buffer.from("{}") });
    home.dispatches.finish({
      id: "dis_1",
      status: 200,
      headers: { "x-ratelimit-remaining": "5", "x-ratelimit-limit": "60", "x-ratelimit-reset": "20s" },
      outcome: { event: "end", data: { reason: "complete" } },
      usage: undefined,
      counted: [],
      notes: [],
      endedAt: 9,
    });
    const { allowance, toldAt } = await standingOf(home, provider);
    expect(allowance).toEqual([{ of: "calls", left: "5", most: "60", resets: "20s", isLow: true }]);
    expect(toldAt).toBe(9);
  });

  it("says that the key is not set rather than that it is wrong", async () => {
    const found = await standing((_request, response) => response.writeHead(401).end("{}"), named);
    expect(found.problem).toMatchObject({ kind: "misconfigured", detail: "It answers, but TEST_KEY is not set." });
  });

  it("says why it could not be reached", async () => {
    expect(await standingOf(home, wireProvider(home, wiring()))).toMatchObject({
      answeredMs: null,
      problem: { kind: "unreachable" },
    });
  });
});

describe("stand-ins on offer", () => {
  it("are those that run here and are not wired", async () => {
    const address = await serving((_request, response) =>
      response.end(JSON.stringify({ name: "Reeds", profile: "chat-completions", credential: named, models: [model] })),
    );
    process.env.FINCH_STANDINS = new URL(address).port;
    const [offer] = await offeredProviders(home);
    expect(offer).toMatchObject({ name: "Reeds", address, models: [model] });
    if (offer) wireProvider(home, offer);
    expect(await offeredProviders(home)).toEqual([]);
  });

  it("are none where something else listens, or nothing", async () => {
    process.env.FINCH_STANDINS = new URL(await serving((_request, response) => response.end("hello"))).port;
    expect(await offeredProviders(home)).toEqual([]);
    process.env.FINCH_STANDINS = "1";
    expect(await offeredProviders(home)).toEqual([]);
  });
});
