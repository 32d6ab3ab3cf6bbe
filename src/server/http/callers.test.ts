import { afterAll, describe, expect, it } from "vitest";
import { accessSchema } from "@/core/serving/access";
import { isRefusal } from "../refusal";
import { plainContent } from "../test-conversation";
import { testFolder } from "../test-folder";
import { callerOf, passFor, visitorCookie } from "./caller";
import { doorFor, doorHeader } from "./door";
import { BenchKey, refusedAtTalk } from "./gate";
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
  const kindOf = (make: () => unknown): string => {
    try {
      make();
      return "taken";
    } catch (error) {
      return isRefusal(error) ? error.problem.kind : String(error);
    }
  };
  afterAll(remove);

  it("is told by a cookie that was signed here, for this app, and by no other", () => {
    const visitor = home.visitors.add(app.id, {}, 1);
    const cookie = visitorCookie(home, app, visitor)["set-cookie"]?.split(";")[0] ?? "";
    const of = (cookie: string, which = app) => callerOf(home, which, ask, here({ cookie })).visitor;
    expect(of(`a=b; ${cookie}`)).toBe(visitor);
    expect(of(`finch_visitor=old.one; ${cookie}`)).toBe(visitor);
    expect(of(cookie, other)).toBeUndefined();
    expect(of(`finch_visitor=${visitor}.forged`)).toBeUndefined();
    expect(of("finch_visitor=%zz")).toBeUndefined();
    expect(of("")).toBeUndefined();
  });

  it("is named by a header on this machine, but not from another's page, nor from elsewhere", () => {
    const named = { "finch-visitor": "ada" };
    expect(callerOf(home, app, ask, here(named))).toMatchObject({ by: "name", fresh: { name: "ada" } });
    const open = withAccess({ origins: ["http://localhost:5173"] });
    expect(kindOf(() => callerOf(home, open, ask, here({ ...named, origin: "http://localhost:5173" })))).toBe(
      "unknown-caller",
    );
    expect(kindOf(() => callerOf(home, app, ask, away(named)))).toBe("unknown-caller");
    expect(kindOf(() => callerOf(home, app, ask, here({ "finch-visitor": "x".repeat(101) })))).toBe("bad-request");
  });

  it("is whomever a server token names, wherever it comes from, until the token is revoked", () => {
    const { token, text } = home.tokens.make(app.id, "server", "Timetable", 1);
    const by = { authorization: `Bearer ${text}`, "finch-visitor": "ada" };
    expect(callerOf(home, app, ask, away(by))).toMatchObject({ by: "token", fresh: { name: "ada" } });
    expect(kindOf(() => callerOf(home, other, ask, away(by)))).toBe("unknown-caller");
    expect(home.tokens.ofApp(app.id)[0]?.usedAt).toEqual(expect.any(Number));
    home.tokens.revoke(app.id, token.id, 2);
    expect(kindOf(() => callerOf(home, app, ask, away(by)))).toBe("unknown-caller");
    expect(kindOf(() => callerOf(home, app, ask, here(by)))).toBe("unknown-caller");
  });

  it("has no more than a visitor of its own with a public token, which ends with the token and its time", () => {
    const { token, text } = home.tokens.make(app.id, "public", "Page", 1);
    const named = { authorization: `Bearer ${text}`, "finch-visitor": "ada" };
    expect(callerOf(home, app, ask, away(named))).toMatchObject({ publicToken: token.id, visitor: undefined });
    const opened = (expiresAt: number) => home.visitors.add(app.id, { token: token.id, expiresAt }, 1);
    const [visitor, late] = [opened(Date.now() + 1_000), opened(Date.now() - 1)];
    const by = (id: string) => away({ authorization: `Bearer ${passFor(home, id)}`, "finch-visitor": "ada" });
    expect(callerOf(home, app, ask, by(visitor))).toMatchObject({ by: "pass", visitor });
    expect(kindOf(() => callerOf(home, app, ask, by(late)))).toBe("unknown-caller");
    const cookie = visitorCookie(home, app, visitor)["set-cookie"]?.split(";")[0] ?? "";
    expect(callerOf(home, app, ask, here({ cookie })).visitor).toBeUndefined();
    home.tokens.revoke(app.id, token.id, 2);
    expect(kindOf(() => callerOf(home, app, ask, by(visitor)))).toBe("unknown-caller");
  });

  it("may say its name in the body only where a header would do", () => {
    const { text } = home.tokens.make(app.id, "server", "Board", 1);
    const open = withAccess({ origins: ["http://localhost:5173"] });
    const may = (which: typeof app, request: Request) => callerOf(home, which, ask, request).mayName;
    expect(may(app, here())).toBe(true);
    expect(may(app, away({ authorization: `Bearer ${text}` }))).toBe(true);
    expect(may(app, away({ "finch-client": "page" }))).toBe(false);
    expect(may(open, here({ origin: "http://localhost:5173" }))).toBe(false);
    expect(may(withAccess({ callers: "token" }), here({ "finch-client": "page" }))).toBe(false);
  });

  it("may call as its app says: nobody, whoever is on this machine, or tokens and the page alone", () => {
    const [nobody, tokens] = [withAccess({ callers: "nobody", page: false }), withAccess({ callers: "token" })];
    expect(kindOf(() => callerOf(home, nobody, ask, here()))).toBe("forbidden");
    expect(kindOf(() => callerOf(home, tokens, ask, here()))).toBe("unknown-caller");
    expect(kindOf(() => callerOf(home, tokens, ask, here({ authorization: "Bearer made-up" })))).toBe("unknown-caller");
    expect(callerOf(home, tokens, ask, away({ "finch-client": "page" }))).toMatchObject({ by: "browser" });
    expect(kindOf(() => callerOf(home, app, ask, away()))).toBe("unknown-caller");
    expect(callerOf(home, app, ask, here({ authorization: "Bearer any-key" }))).toMatchObject({ by: "browser" });
  });

  it("is no page of an origin that the app does not allow, whatever it is called", () => {
    const open = withAccess({ origins: ["http://localhost:5173"] });
    const from = (origin: string) => kindOf(() => callerOf(home, open, ask, here({ origin })));
    expect(from("http://localhost:5173")).toBe("taken");
    for (const origin of ["null", "http://localhost:5174", "http://localhost:5173.evil.test", "file://"])
      expect(from(origin)).toBe("forbidden");
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
  it.each(["/talk/quay-desk", "/talk/quay-desk/trial", "/talk/module.js", "/api/apps/quay-desk/replies/msg_1/stop"])(
    "lets %s through to pages and apps",
    (path) => {
      expect(refusedAtTalk(path)).toBeUndefined();
    },
  );

  it.each([
    "/",
    "/apps",
    "/apps/quay-desk/build",
    "/api/bench/apps",
    "/api/apps/../bench/apps",
    "/api/apps/x/%2e%2e/%2e%2e/bench/apps",
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
    const ticket = ticketFor(home, "msg_1", undefined, 1_000);
    expect(letInBy(home, ticket, "msg_1", 2_000)).toEqual({ token: undefined });
    expect(letInBy(home, ticket, "msg_2", 2_000)).toBeUndefined();
    expect(letInBy(home, ticket, "msg_1", 1_000_000)).toBeUndefined();
    expect(letInBy(home, `${ticket}x`, "msg_1", 2_000)).toBeUndefined();
    remove();
  });

  it("lets in no more once the token under which it was given is revoked", () => {
    const { home, remove } = testFolder();
    const app = home.apps.make("Ticketed", plainContent, 1).id;
    const { token } = home.tokens.make(app, "server", "Mine", 1);
    const ticket = ticketFor(home, "msg_1", token.id, 1_000);
    expect(letInBy(home, ticket, "msg_1", 2_000)).toEqual({ token: token.id });
    home.tokens.revoke(app, token.id, 3_000);
    expect(letInBy(home, ticket, "msg_1", 4_000)).toBeUndefined();
    remove();
  });
});
