import { SignJWT } from "jose";
import { afterAll, describe, expect, it } from "vitest";
import { accessSchema } from "@/core/serving/access";
import { isRefusal } from "../ground/refusal";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { badgeFor, badgeHeader } from "./badge";
import { callerOf } from "./caller";
import { visitorCookie } from "./cookie";
import { doorFor, doorHeader } from "./door";
import { BenchKey, refusedAtTalk } from "./gate";
import { passFor } from "./pass";
import { letInBy, ticketFor } from "./ticket";

describe("who calls", () => {
  const { home, remove } = testFolder();
  const app = home.apps.make("Quay Desk", plainContent, 1);
  const other = home.apps.make("Logbook", plainContent, 1);
  const ask = { method: "POST", path: "/api/apps/{slug}/replies" } as const;
  const here = (headers: Record<string, string> = {}) =>
    new Request("http://127.0.0.1:4600/api/apps/x/replies", {
      method: "POST",
      headers: { host: "127.0.0.1:4600", ...headers },
    });
  const away = (headers: Record<string, string> = {}) => here({ [doorHeader]: JSON.stringify(elsewhere), ...headers });
  const elsewhere = { leads: "talk", isHere: false, address: "10.0.0.9", origin: "http://127.0.0.1:4600" };
  const withAccess = (access: object) => ({ ...app, access: accessSchema.parse(access) });
  const who = (which: typeof app, request: Request) => callerOf(home, which, ask, request);
  const kindOf = async (which: typeof app, request: Request): Promise<string> => {
    try {
      await who(which, request);
      return "taken";
    } catch (error) {
      return isRefusal(error) ? error.problem.kind : String(error);
    }
  };
  const cookieOf = (visitor: string) => visitorCookie(home, app, visitor)["set-cookie"]?.split(";")[0] ?? "";
  const badged = (of: "page" | "frame" | "terminal", now = Date.now(), which = app) => ({
    [badgeHeader]: badgeFor(home, which, of, now).badge,
  });
  afterAll(remove);

  it("is told by a cookie that was signed here, for this app, and by no other", async () => {
    const visitor = home.visitors.add(app.id, {}, 1);
    const cookie = cookieOf(visitor);
    const of = async (cookie: string, which = app) => (await who(which, here({ cookie }))).visitor;
    expect(await of(`a=b; ${cookie}`)).toBe(visitor);
    expect(await of(`finch_visitor=old.one; ${cookie}`)).toBe(visitor);
    expect(await of(cookie, other)).toBeUndefined();
    expect(await of(`finch_visitor=${visitor}.forged`)).toBeUndefined();
    expect(await of("finch_visitor=%zz")).toBeUndefined();
    expect(await of("")).toBeUndefined();
  });

  it("is named by a header on this machine, but not from another's page, nor from elsewhere", async () => {
    const named = { "finch-visitor": "ada" };
    expect(await who(app, here(named))).toMatchObject({ by: "name", fresh: { name: "ada" } });
    const open = withAccess({ origins: ["http://localhost:5173"] });
    expect(await kindOf(open, here({ ...named, origin: "http://localhost:5173" }))).toBe("unknown-caller");
    expect(await kindOf(app, away(named))).toBe("unknown-caller");
    expect(await kindOf(app, here({ "finch-visitor": "x".repeat(101) }))).toBe("bad-request");
  });

  it("is whomever a server token names, wherever it comes from, until the token is revoked", async () => {
    const { token, text } = home.tokens.make(app.id, "server", "Timetable", 1);
    const by = { authorization: `Bearer ${text}`, "finch-visitor": "ada" };
    expect(await who(app, away(by))).toMatchObject({ by: "token", fresh: { name: "ada" } });
    expect(await kindOf(other, away(by))).toBe("unknown-caller");
    expect(home.tokens.ofApp(app.id)[0]?.usedAt).toEqual(expect.any(Number));
    home.tokens.revoke(app.id, token.id, 2);
    expect(await kindOf(app, away(by))).toBe("unknown-caller");
    expect(await kindOf(app, here(by))).toBe("unknown-caller");
  });

  it("has no more than a visitor of its own with a public token, which ends with the token and its time", async () => {
    const { token, text } = home.tokens.make(app.id, "public", "Page", 1);
    const named = { authorization: `Bearer ${text}`, "finch-visitor": "ada" };
    expect(await who(app, away(named))).toMatchObject({ publicToken: token.id, visitor: undefined });
    const opened = (expiresAt: number) => home.visitors.add(app.id, { token: token.id, expiresAt }, 1);
    const [visitor, late] = [opened(Date.now() + 10_000), opened(Date.now() - 1)];
    const by = (id: string) => away({ authorization: `Bearer ${passFor(home, id)}`, "finch-visitor": "ada" });
    expect(await who(app, by(visitor))).toMatchObject({ by: "pass", visitor });
    expect(await kindOf(app, by(late))).toBe("unknown-caller");
    expect((await who(app, here({ cookie: cookieOf(visitor) }))).visitor).toBeUndefined();
    home.visitors.extend(late, Date.now() + 10_000);
    expect(await who(app, by(late))).toMatchObject({ visitor: late });
    home.tokens.revoke(app.id, token.id, 2);
    expect(await kindOf(app, by(visitor))).toBe("unknown-caller");
  });

  it("is known by the pass that a page of another site was given, wherever one may call without a token", async () => {
    const visitor = home.visitors.add(app.id, {}, 1);
    const pass = { authorization: `Bearer ${passFor(home, visitor)}` };
    expect(await who(app, here(pass))).toMatchObject({ by: "pass", visitor, token: undefined });
    expect(await kindOf(app, away(pass))).toBe("unknown-caller");
    expect(await who(app, away({ ...pass, ...badged("frame") }))).toMatchObject({ by: "pass", visitor });
    expect(await kindOf(other, here(pass))).toBe("unknown-caller");
    expect(await kindOf(app, here({ authorization: `${pass.authorization}x` }))).toBe("unknown-caller");
  });

  it("may say its name in the body only where a header would do", async () => {
    const { text } = home.tokens.make(app.id, "server", "Board", 1);
    const open = withAccess({ origins: ["http://localhost:5173"] });
    const may = async (which: typeof app, request: Request) => (await who(which, request)).mayName;
    expect(await may(app, here())).toBe(true);
    expect(await may(app, away({ authorization: `Bearer ${text}` }))).toBe(true);
    expect(await may(app, away(badged("page")))).toBe(false);
    expect(await may(open, here({ origin: "http://localhost:5173" }))).toBe(false);
    expect(await may(withAccess({ callers: "token" }), here(badged("page")))).toBe(false);
  });

  it("may call as its app says: nobody, whoever is on this machine, or tokens and the page alone", async () => {
    const [nobody, tokens] = [withAccess({ callers: "nobody", page: false }), withAccess({ callers: "token" })];
    expect(await kindOf(nobody, here())).toBe("forbidden");
    expect(await kindOf(tokens, here())).toBe("unknown-caller");
    expect(await kindOf(tokens, here({ authorization: "Bearer made-up" }))).toBe("unknown-caller");
    expect(await who(tokens, away(badged("page")))).toMatchObject({ by: "browser", badge: "page" });
    expect(await kindOf(app, away())).toBe("unknown-caller");
    expect(await who(app, here({ authorization: "Bearer any-key" }))).toMatchObject({ by: "browser" });
  });

  it("is the page, a frame or the terminal by a badge alone, never by what it says", async () => {
    const closed = [withAccess({ callers: "token" }), withAccess({ callers: "nobody" })];
    const cookie = cookieOf(home.visitors.add(app.id, {}, 1));
    for (const which of closed) {
      for (const client of ["page", "frame", "terminal", "Page", " page "])
        expect(await kindOf(which, here({ "finch-client": client, cookie }))).toBe("bad-request");
      expect(await kindOf(which, here({ cookie }))).not.toBe("taken");
      expect(await kindOf(which, here({ ...badged("terminal"), cookie }))).not.toBe("taken");
      expect(await kindOf(which, here(badged("page", Date.now() - 11 * 60_000)))).toBe("unknown-caller");
      expect(await kindOf(which, here(badged("page", Date.now(), other)))).toBe("unknown-caller");
      expect(await kindOf(which, here({ [badgeHeader]: "badge page x 9e15.forged" }))).toBe("unknown-caller");
      expect(await kindOf(which, here({ ...badged("page"), cookie }))).toBe("taken");
      expect(await kindOf({ ...which, access: { ...which.access, page: false } }, here(badged("page")))).toBe(
        "forbidden",
      );
      const foreign = { ...which, access: { ...which.access, origins: ["http://localhost:5173"] } };
      expect(await kindOf(foreign, here({ ...badged("page"), origin: "http://localhost:5173" }))).not.toBe("taken");
    }
    expect((await who(app, here({ ...badged("terminal"), "finch-visitor": "ada" }))).seen).toMatchObject({
      origin: "terminal",
      client: null,
    });
    expect((await who(app, here({ "finch-client": "desk-7" }))).seen).toMatchObject({
      origin: "http",
      client: "desk-7",
    });
  });

  it("is told what the look of the page shows there, and what Serve says over the endpoints", async () => {
    const shy = withAccess({ shows: ["counts"] });
    expect((await who(app, here())).told).toEqual({
      thoughts: true,
      counts: true,
      price: true,
      model: true,
      tools: true,
    });
    expect((await who(shy, here())).told).toEqual({
      thoughts: false,
      counts: true,
      price: false,
      model: false,
      tools: false,
    });
    expect((await who(app, here(badged("page")))).told).toEqual({
      thoughts: false,
      counts: false,
      price: false,
      model: false,
      tools: false,
    });
    const look = { ...app.look, shows: { ...app.look.shows, thoughts: true, cost: true } };
    expect((await who({ ...app, look }, here(badged("frame")))).told).toEqual({
      thoughts: true,
      counts: false,
      price: true,
      model: false,
      tools: false,
    });
  });

  it("is no page of an origin that the app does not allow, whatever it is called", async () => {
    const open = withAccess({ origins: ["http://localhost:5173"] });
    const from = (origin: string) => kindOf(open, here({ origin }));
    expect(await from("http://localhost:5173")).toBe("taken");
    for (const origin of ["null", "http://localhost:5174", "http://localhost:5173.evil.test", "file://"])
      expect(await from(origin)).toBe("forbidden");
  });
});

describe("an identity that a site signed", () => {
  const { home, remove } = testFolder();
  const app = home.apps.make("Quay Desk", plainContent, 1);
  const { token, text: secret } = home.tokens.make(app.id, "site", "Ferry site", 1);
  const ask = { method: "POST", path: "/api/apps/{slug}/replies" } as const;
  const now = () => Math.floor(Date.now() / 1000);
  const signed = (claims: object, key = secret, alg = "HS256") =>
    new SignJWT({ ...claims }).setProtectedHeader({ alg }).sign(new TextEncoder().encode(key));
  const called = async (identity: string) => {
    const request = new Request("http://127.0.0.1:4600/api/apps/x/replies", {
      method: "POST",
      headers: { host: "127.0.0.1:4600", authorization: `Bearer ${identity}` },
    });
    try {
      return await callerOf(home, { ...app, access: accessSchema.parse({ callers: "token" }) }, ask, request);
    } catch (error) {
      if (isRefusal(error)) return [error.problem.kind, error.problem.detail];
      throw error;
    }
  };
  afterAll(remove);

  it("is the visitor of that name, the same as a server token names", async () => {
    const ada = home.visitors.add(app.id, { name: "ada" }, 1);
    expect(await called(await signed({ sub: "ada", exp: now() + 60 }))).toMatchObject({
      visitor: ada,
      token: token.id,
    });
    expect(await called(await signed({ sub: "jonas", exp: now() + 60 }))).toMatchObject({
      visitor: undefined,
      fresh: { name: "jonas" },
      mayName: false,
    });
    expect(await called(await signed({ sub: "ada", exp: now() + 60, labels: ["crew"] }))).toMatchObject({
      visitor: ada,
      labels: ["crew"],
    });
    expect(await called(await signed({ sub: "ada", exp: now() + 60 }))).toMatchObject({ labels: [] });
    expect(home.tokens.ofApp(app.id)[0]).toMatchObject({ kind: "site", usedAt: expect.any(Number) });
  });

  it.each([
    [{ sub: "ada", exp: -100 }, /is over/],
    [{ sub: "ada" }, /`exp`/],
    [{ exp: 60 }, /`sub`/],
    [{ sub: "", exp: 60 }, /no name/],
    [{ sub: "vis_01hz9m0000000000000000000a", exp: 60 }, /an id that is given here/],
    [{ sub: "x".repeat(101), exp: 60 }, /no name/],
    [{ sub: "ad\u00e9", exp: 60 }, /no name/],
    [{ sub: "ada", exp: 2 * 24 * 3600 }, /more than a day/],
    [{ sub: "ada", exp: 60, labels: "crew" }, /no list of up to 20 labels/],
    [{ sub: "ada", exp: 60, labels: ["two words"] }, /no list of up to 20 labels/],
  ])("with %j is refused, and told why", async (claims: { sub?: string; exp?: number; labels?: unknown }, why) => {
    const exp = claims.exp === undefined ? {} : { exp: now() + claims.exp };
    expect(await called(await signed({ ...claims, ...exp }))).toEqual(["unknown-caller", expect.stringMatching(why)]);
  });

  it("is nobody's under another secret, another algorithm, none, or one that was revoked", async () => {
    const good = { sub: "ada", exp: now() + 60 };
    const refused = ["unknown-caller", expect.any(String)];
    expect(await called(await signed(good, `${secret}x`))).toEqual(refused);
    expect(await called(await signed(good, secret, "HS384"))).toEqual(refused);
    const [, body] = (await signed(good)).split(".");
    expect(await called(`${btoa('{"alg":"none"}').replace(/=/g, "")}.${body}.x`)).toEqual(refused);
    const identity = await signed(good);
    home.tokens.revoke(app.id, token.id, 2);
    expect(await called(identity)).toEqual(refused);
    expect(home.tokens.sitesOf(app.id)).toEqual([]);
  });
});

describe("the door that a call came in by", () => {
  const by = (headers: Record<string, string>, listens = "127.0.0.1", proxies: string[] = []) =>
    doorFor({ leads: "talk", listens, peer: "::ffff:127.0.0.1", proxies }, (name) => headers[name]);
  const forwarded = { host: "desk.test", "x-forwarded-for": "9.9.9.9, 127.0.0.1", "x-forwarded-proto": "https" };

  it("is of this machine only where nothing else is listened on, and no proxy passed the call on", () => {
    expect(by({ host: "127.0.0.1:4600" })).toMatchObject({ isHere: true, origin: "http://127.0.0.1:4600" });
    expect(by({ host: "127.0.0.1:4600" }, "0.0.0.0").isHere).toBe(false);
    expect(by(forwarded).isHere).toBe(false);
    expect(by({ host: "x", forwarded: "for=127.0.0.1" }).isHere).toBe(false);
  });

  it("believes the headers of named proxies, and of no others", () => {
    expect(by(forwarded)).toMatchObject({ address: "127.0.0.1", origin: "http://desk.test" });
    expect(by(forwarded, "127.0.0.1", ["127.0.0.1"])).toMatchObject({
      address: "9.9.9.9",
      origin: "https://desk.test",
      isHere: false,
    });
  });

  it("is of this machine where a named proxy runs here and did not pass the call on", () => {
    expect(by({ host: "127.0.0.1:4600" }, "127.0.0.1", ["127.0.0.1"])).toMatchObject({
      isHere: true,
      address: "127.0.0.1",
      origin: "http://127.0.0.1:4600",
    });
  });

  it("has the host and the scheme that the last hop tells", () => {
    const several = {
      ...forwarded,
      "x-forwarded-host": "evil.test, desk.test",
      "x-forwarded-proto": "https, http",
    };
    expect(by(several, "127.0.0.1", ["127.0.0.1"]).origin).toBe("http://desk.test");
  });
});

describe("the gate", () => {
  it.each([
    "/talk/quay-desk",
    "/talk/quay-desk/preview",
    "/talk/module.js",
    "/api/apps/quay-desk/replies/msg_1/stop",
    // ids of calls are a provider's own
    "/api/apps/quay-desk/replies/msg_1/calls/functions.fares%3A0",
  ])("lets %s through to pages and apps", (path) => {
    expect(refusedAtTalk(path)).toBeUndefined();
  });

  it.each([
    "/",
    "/apps",
    "/apps/quay-desk/build",
    "/api/bench/apps",
    "/api/apps/../bench/apps",
    "/api/apps/x/%2e%2e/%2e%2e/bench/apps",
    "/api/apps/x/%2E%2e%2Fbench/apps",
    "/api/apps/x%5c..%5cbench/apps",
    "/api/apps/x/%252e%252e/apps",
    "/api//apps/x/replies",
    "/api/apps/",
    "/talk",
  ])("hides %s there", (path) => {
    expect(refusedAtTalk(path)?.kind).toBe("not-found");
  });

  it("opens the bench by a link that works once, and then by the cookie that it gave", () => {
    const { home, remove } = testFolder();
    const key = new BenchKey(home.signer);
    const { path } = key;
    expect(key.refused("/apps", undefined)?.kind).toBe("forbidden");
    expect(key.cookieFor(`${path}x`)).toBeUndefined();
    const cookie = key.cookieFor(path)?.split(";")[0];
    expect(key.refused("/apps", `a=b; ${cookie}`)).toBeUndefined();
    expect(key.cookieFor(path)).toBeUndefined();
    expect(key.refused("/apps", "finch_bench=forged.x")?.kind).toBe("forbidden");
    remove();
  });
});

describe("a ticket", () => {
  it("lets in to one reply, for a while", () => {
    const { home, remove } = testFolder();
    const ticket = ticketFor(home, "msg_1", { token: undefined, by: "page" }, 1_000);
    expect(letInBy(home, ticket, "msg_1", 2_000)).toEqual({ token: undefined, by: "page" });
    expect(letInBy(home, ticket, "msg_2", 2_000)).toBeUndefined();
    expect(letInBy(home, ticket, "msg_1", 1_000_000)).toBeUndefined();
    expect(letInBy(home, `${ticket}x`, "msg_1", 2_000)).toBeUndefined();
    remove();
  });

  it("lets in no more once the token under which it was given is revoked", () => {
    const { home, remove } = testFolder();
    const app = home.apps.make("Ticketed", plainContent, 1).id;
    const { token } = home.tokens.make(app, "server", "Mine", 1);
    const ticket = ticketFor(home, "msg_1", { token: token.id, by: "endpoints" }, 1_000);
    expect(letInBy(home, ticket, "msg_1", 2_000)).toEqual({ token: token.id, by: "endpoints" });
    home.tokens.revoke(app, token.id, 3_000);
    expect(letInBy(home, ticket, "msg_1", 4_000)).toBeUndefined();
    remove();
  });
});
