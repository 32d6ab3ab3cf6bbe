import fc from "fast-check";
import { afterAll, describe, expect, it } from "vitest";
import { problem } from "@/core/problem/problem";
import { newId } from "../ground/id";
import { plainContent, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import type { CallSeen } from "./call-store";
import { mostKept } from "./call-store";
import { Limits } from "./limits";
import { looksLikeToken } from "./token-store";

describe("limits", () => {
  it("count a call for several takes as so many", () => {
    const limits = new Limits();
    const at = (now: number, weight: number) => limits.take([{ who: "ada", aMinute: 5 }], now, weight);
    expect(at(0, 6)).toMatchObject({ seconds: 60 });
    expect([at(0, 3), at(10_000, 2)]).toEqual([undefined, undefined]);
    expect(at(20_000, 4)).toMatchObject({ seconds: 50 });
    expect(at(60_000, 3)).toBeUndefined();
  });

  it("let through as many calls a minute as they say, and tell when the next may come", () => {
    const limits = new Limits();
    const at = (now: number) => limits.take([{ who: "ada", aMinute: 2 }], now);
    expect([at(0), at(10_000)]).toEqual([undefined, undefined]);
    expect(at(20_000)).toMatchObject({ seconds: 40, limit: { who: "ada", aMinute: 2 } });
    expect(at(60_000)).toBeUndefined();
    expect(at(60_001)).toMatchObject({ seconds: 10 });
  });

  it("of one caller are not used up by another, nor by a call that another limit stopped", () => {
    const limits = new Limits();
    const both = (who: string) =>
      limits.take(
        [
          { who, aMinute: 5 },
          { who: "the app", aMinute: 1 },
        ],
        0,
      );
    expect(both("ada")).toBeUndefined();
    for (let each = 0; each < 5; each++) expect(both("ivo")?.limit.who).toBe("the app");
    expect(limits.take([{ who: "ivo", aMinute: 1 }], 0)).toBeUndefined();
  });

  it("never let more through in any minute than they say", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(20_000), { maxLength: 200 }), fc.integer({ min: 1, max: 9 }), (waits, aMinute) => {
        const limits = new Limits();
        const taken: number[] = [];
        let now = 0;
        for (const wait of waits) {
          now += wait;
          if (!limits.take([{ who: "x", aMinute }], now)) taken.push(now);
        }
        for (const from of taken)
          expect(taken.filter((at) => at >= from && at < from + 60_000).length).toBeLessThanOrEqual(aMinute);
      }),
    );
  });
});

describe("the stores of those who call", () => {
  const { home, remove } = testFolder();
  const app = home.apps.make("Quay Desk", plainContent, 1).id;
  const other = home.apps.make("Logbook", plainContent, 1).id;
  afterAll(remove);

  it("know a visitor by name within its app, and make none twice", () => {
    const ada = home.visitors.add(app, { name: "ada" }, 1);
    expect(home.visitors.add(app, { name: "ada" }, 2)).toBe(ada);
    expect(home.visitors.named(app, ada)?.name).toBe("ada");
    expect(home.visitors.named(other, "ada")).toBeUndefined();
    expect(home.visitors.byId(other, ada)).toBeUndefined();
    expect(home.visitors.add(other, { name: "ada" }, 1)).not.toBe(ada);
  });

  it("forget a visitor with its last conversation, and one that a token opened not before its time", async () => {
    const { token } = home.tokens.make(app, "public", "Page", 1);
    const named = home.visitors.add(app, { name: "ivo" }, 1);
    const opened = home.visitors.add(app, { token: token.id, expiresAt: 9e15 }, 1);
    const talks = [named, named, opened].map((visitor) => talk(home, app, 1, { visitor }));
    const leave = async (id = "") => {
      home.conversations.leave(id, 2);
      await home.removal.start();
    };
    await leave(talks[0]);
    expect(home.visitors.named(app, "ivo")?.id).toBe(named);
    await leave(talks[1]);
    expect(home.visitors.named(app, "ivo")).toBeUndefined();
    await leave(talks[2]);
    expect(home.visitors.byId(app, opened)?.id).toBe(opened);
    home.tokens.revoke(app, token.id, 3);
  });

  it("keep no token as it is", () => {
    const { text, token } = home.tokens.make(app, "server", "Timetable", 1);
    expect(looksLikeToken(text)).toBe(true);
    expect(home.tokens.ofApp(app)).toEqual([token]);
    expect(JSON.stringify(home.database.prepare("SELECT * FROM tokens").all())).not.toContain(text);
    expect(home.tokens.use(other, text, 2)).toBeUndefined();
    expect(home.tokens.revoke(other, token.id, 3)).toBe(false);
    expect([home.tokens.revoke(app, token.id, 3), home.tokens.revoke(app, token.id, 3)]).toEqual([true, false]);
    expect(home.tokens.ofApp(app)).toEqual([]);
  });

  const seen: Omit<CallSeen, "id"> = {
    app,
    method: "POST",
    path: "/api/apps/quay-desk/replies",
    origin: "http",
    client: "desk-7",
    shape: "own",
    visitor: "ada",
    webOrigin: null,
    address: "127.0.0.1",
  };

  it("keep the secret that a site signs with sealed, and no more once it is revoked", () => {
    const { text, token } = home.tokens.make(app, "site", "Ferry site", 1);
    expect(home.tokens.ofApp(app)).toMatchObject([{ id: token.id, kind: "site", usedAt: null }]);
    expect(home.tokens.sitesOf(app)).toEqual([{ id: token.id, secret: text }]);
    expect(home.tokens.use(app, text, 2)).toBeUndefined();
    const stored = () => JSON.stringify(home.database.prepare("SELECT * FROM sites").all());
    expect(stored()).not.toContain(text);
    home.tokens.useSite(token.id, 20_000);
    expect([home.tokens.ofApp(app)[0]?.usedAt, home.tokens.isGood(token.id)]).toEqual([20_000, true]);
    expect(home.tokens.revoke(other, token.id, 3)).toBe(false);
    expect(home.tokens.revoke(app, token.id, 3)).toBe(true);
    expect([home.tokens.isGood(token.id), home.tokens.sitesOf(app), home.tokens.ofApp(app)]).toEqual([false, [], []]);
    expect(stored()).toContain('"sealed":""');
  });

  it("list calls by page, the latest first, and only those that were refused or failed", () => {
    const refused = problem("over-limit", "Too many.");
    const [one, two, three] = ["call_1", "call_2", "call_3"];
    home.calls.add({ ...seen, id: one }, { status: 200, problem: null, reply: "msg_1" }, 1);
    home.calls.add({ ...seen, id: two }, { status: 429, problem: refused, reply: null }, 2);
    home.calls.add({ ...seen, id: three, origin: "page" }, { status: 200, problem: null, reply: "msg_2" }, 3);
    home.calls.end("msg_1", "complete", 12.5, { input: 3, output: 4, price: 0.5, currency: "EUR" }, 4);
    home.calls.end("msg_2", "failed", null, null, 4);
    home.calls.fail("msg_2", 502, problem("empty", "Nothing came."));
    const ids = (only: "all" | "refused" | "failed", before?: string) =>
      home.calls.ofApp(app, only, before, 10).map(({ id }) => id);
    expect(ids("all")).toEqual([three, two, one]);
    expect(ids("all", two)).toEqual([one]);
    expect(ids("refused")).toEqual([two]);
    expect(ids("failed")).toEqual([three, two]);
    expect(home.calls.byId(one)).toMatchObject({
      ended: { state: "complete", firstTextMs: 12.5, usage: { input: 3 } },
    });
    expect(home.calls.byId(three)).toMatchObject({ status: 502, problem: { kind: "empty" }, ended: { usage: null } });
    expect(home.calls.since(app, 2)).toEqual({ calls: 2, ofPage: 1, price: 0, currency: "EUR" });
    home.calls.add(
      { ...seen, id: one },
      { status: 500, problem: problem("internal", "It fell over."), reply: null },
      4,
    );
    expect(home.calls.byId(one)).toMatchObject({ status: 500, problem: { kind: "internal" }, reply: "msg_1" });
    expect(home.calls.ofApp(other, "all", undefined, 10)).toEqual([]);
  });

  it("forget the oldest calls beyond those that are kept, by themselves where many come", () => {
    const come = (count: number) =>
      home.database
        .transaction(() => {
          for (let each = 0; each < count; each++)
            home.calls.add({ ...seen, id: newId("call") }, { status: 403, problem: null, reply: null }, 10);
        })
        .immediate();
    come(mostKept + 2_000);
    expect(home.calls.ofApp(app, "all", undefined, mostKept * 2).length).toBeLessThan(mostKept + 600);
    come(5);
    home.calls.forget(app);
    expect(home.calls.ofApp(app, "all", undefined, mostKept * 2)).toHaveLength(mostKept);
  });
});
