import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Message } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import { usualLimits } from "@/core/provider/limits";
import type { Content } from "@/core/revision/content";
import { tokensOf } from "@/core/tokens/calibration";
import { noCounts } from "@/core/tokens/counts";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { lockFolder } from "./database/lock";
import { latestKept } from "./live/event-store";
import type { Asked } from "./replies/ask";
import { oncePerKey } from "./replies/idempotent";
import { recoverReplies } from "./replies/recover";
import { addTurn, plainContent, plainFacts, talk } from "./test/conversation";
import { testFolder } from "./test/folder";

let { home, folder, remove } = testFolder();
remove();
beforeEach(() => {
  ({ home, folder, remove } = testFolder());
});
afterEach(() => remove());

describe("the data folder", () => {
  it("is locked against a second process, which is told who has it", () => {
    expect(() => lockFolder(folder)).toThrow(new RegExp(`in use by another Unruly Finch \\(process ${process.pid}\\)`));
  });
});

describe("apps", () => {
  it("begin with a live revision 1, and get addresses of their own", () => {
    const one = home.apps.make("Quay Desk", plainContent, 1);
    const two = home.apps.make("Quay  desk!", plainContent, 1);
    expect([one.slug, two.slug, home.apps.make("渡", plainContent, 1).slug]).toEqual([
      "quay-desk",
      "quay-desk-2",
      "app",
    ]);
    expect(home.apps.revision(one.id, one.liveRevision)?.content).toEqual(plainContent);
  });

  it("fix the same content as the same revision, and other content as the next", () => {
    const { id } = home.apps.make("A", plainContent, 1);
    const fixed = (content: Content, now: number) => home.apps.fix(id, home.contents.keep(content, now), now);
    expect(fixed({ ...plainContent, timeZone: "UTC" }, 2)).toBe(1);
    expect(fixed({ ...plainContent, prompt: "Be long." }, 3)).toBe(2);
    expect(fixed(plainContent, 4)).toBe(1);
    expect(home.apps.latest(id).number).toBe(2);
  });

  it("take their conversations along when they are deleted, and are out of sight at once", async () => {
    const { id, slug } = home.apps.make("A", plainContent, 1);
    const conversation = talk(home, id, 2);
    home.apps.leave(id);
    expect(home.conversations.byId(conversation)).toBeUndefined();
    expect([home.apps.bySlug(slug), home.apps.byId(id), home.apps.all()]).toEqual([undefined, undefined, []]);
    expect(home.apps.make("A", plainContent, 2).slug).toBe("a-2");
    await home.removal.start();
    expect(home.database.prepare("SELECT count(*) AS count FROM messages").get()).toEqual({ count: 0 });
    expect(home.apps.make("A", plainContent, 3).slug).toBe("a");
  });
});

describe("conversations", () => {
  it("give their line from the root, or only its end", () => {
    const conversation = talk(home, home.apps.make("A", plainContent, 1).id, 5);
    const tip = home.conversations.byId(conversation)?.tip ?? "";
    expect(home.messages.line(tip).map(({ turn }) => turn)).toEqual([1, 1, 2, 2, 3, 3, 4, 4, 5, 5]);
    expect(home.messages.line(tip, 3).map(({ turn }) => turn)).toEqual([4, 5, 5]);
  });

  it("give what is sent of all above a message, also where the tree forks", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const conversation = talk(home, app, 3);
    const straight = home.messages.line(home.conversations.byId(conversation)?.tip ?? "");
    const [, reply, question] = straight;
    if (question?.role !== "visitor" || reply?.role !== "app") return expect.unreachable();
    const facts = { ...plainFacts, carry: [{ round: 1, value: 1 }] };
    const take = home.messages.addReply({ conversation, parent: question, continues: null, facts, now: 2 });
    home.messages.finishReply({ id: take.id, state: "complete", pieces: piecesOf("Nay."), reported: 3, facts });
    const last = addTurn(home, conversation, "And then?");
    for (const end of [straight.at(-1) as Message, last]) {
      const line = home.messages.line(end.id).slice(0, -1);
      const sent = line.map(({ role, pieces, id }) => {
        const carry = id === take.id ? { provider: "p", rounds: [{ round: 1, value: 1 }] } : undefined;
        return { role, pieces, carry };
      });
      expect(home.messages.above(end)).toEqual(sent);
    }
    expect(home.messages.above(straight[0] as Message)).toEqual([]);
  });

  it("are listed by page, the last touched first, also when many were touched at once", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const ids = [5, 1, 5, 3, 5].map((at) => talk(home, app, 1, { now: at }));
    const visitor = home.visitors.add(app, {}, 1);
    home.database.prepare("UPDATE conversations SET visitor_id = ?").run(visitor);
    const first = home.conversations.ofVisitor(visitor, app, { updatedAt: Number.MAX_SAFE_INTEGER, id: "" }, 2);
    const rest = home.conversations.ofVisitor(visitor, app, first[1] ?? { updatedAt: 0, id: "" }, 10);
    expect([...first, ...rest].map(({ id }) => id)).toEqual([ids[4], ids[2], ids[0], ids[3], ids[1]]);
  });

  it("that are hidden can be restored until their time is over", async () => {
    const conversation = talk(home, home.apps.make("A", plainContent, 1).id, 1);
    home.conversations.hide(conversation, 10);
    expect(home.conversations.byId(conversation)).toBeUndefined();
    expect(home.conversations.restore(conversation)).toBe(true);
    home.conversations.hide(conversation, 10);
    home.conversations.leaveHidden(11);
    expect(home.conversations.restore(conversation)).toBe(false);
    await home.removal.start();
    expect(home.database.prepare("SELECT count(*) FROM conversations").pluck().get()).toBe(0);
  });

  it("of 3,000 messages in a row are deleted in slices, while others are written between them", async () => {
    const app = home.apps.make("A", plainContent, 1);
    const deep = talk(home, app.id, 1_500);
    const other = talk(home, app.id, 1);
    home.conversations.leave(deep, 5);
    const removed = home.removal.start();
    let between = 0;
    let isOver = false;
    void removed.then(() => {
      isOver = true;
    });
    while (!isOver) {
      await new Promise(setImmediate);
      home.apps.rename(app, `A ${between}`);
      between += 1;
    }
    expect(between).toBeGreaterThan(100);
    expect(home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(2);
    expect(home.conversations.byId(other)).toBeDefined();
  }, 90_000);

  it("in which a reply still arrives are not deleted before it has ended", async () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const conversation = talk(home, app, 1);
    addTurn(home, conversation, "And?");
    home.conversations.leave(conversation, 5);
    await home.removal.start();
    expect(home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(4);
  });
});

describe("idempotency keys", () => {
  it("are asked once per caller, and forget after a day", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const tip = home.conversations.byId(talk(home, app, 1))?.tip ?? "";
    const call = { app, caller: "vis_1", key: "k", body: "{}" };
    let made = 0;
    const head = { reply: tip, conversation: "", message: "", revision: 1, provider: "", model: "" };
    const further = ["msg_2"];
    const makeFor = (visitor: string) => (note: (asked: Asked) => void) => {
      made += 1;
      note({ head, further, asker: { kind: "visitor", visitor } });
      return { ...head, further };
    };
    const make = makeFor("vis_1");
    expect([oncePerKey(home, call, make), oncePerKey(home, call, make)]).toMatchObject(
      Array.from({ length: 2 }, () => ({ reply: tip, further })),
    );
    expect(made).toBe(1);
    expect(() => oncePerKey(home, { ...call, body: "{ }" }, make)).toThrow(/another body/);
    oncePerKey(home, { ...call, caller: "vis_2" }, makeFor("vis_2"));
    const day = 24 * 60 * 60 * 1000;
    expect(home.idempotency.find(call, Date.now() + day)).toBeUndefined();
    home.idempotency.forget(Date.now() + day + 1);
    oncePerKey(home, call, make);
    expect(made).toBe(3);
  });

  it("of a caller without an identity are worth nothing, until the first answer gave it one", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const tip = home.conversations.byId(talk(home, app, 1))?.tip ?? "";
    const call = { app, caller: null, key: "k", body: "{}" };
    const head = { reply: tip, conversation: "", message: "", revision: 1, provider: "", model: "" };
    const visitors: string[] = [];
    const make = (note: (asked: Asked) => void) => {
      visitors.push(`vis_${visitors.length + 1}`);
      note({ head, further: [], asker: { kind: "visitor", visitor: visitors.at(-1) ?? "" } });
      return { reply: tip, further: [] };
    };
    oncePerKey(home, call, make);
    oncePerKey(home, call, make);
    for (const caller of visitors) oncePerKey(home, { ...call, caller }, make);
    expect(visitors).toEqual(["vis_1", "vis_2"]);
  });
});

describe("providers", () => {
  const provider = {
    name: "Reedbed",
    address: "http://127.0.0.1:1",
    profileText: JSON.stringify(chatCompletions),
    credential: { kind: "none" as const },
    headers: {},
    extras: {},
    values: {},
    signing: null,
    limits: usualLimits,
    retries: 2,
    records: false,
    atOnce: null,
    proxy: null,
    proxyLogin: null,
    caFile: null,
  };

  it("learn how their models count", () => {
    const id = home.providers.add(provider, 1);
    home.providers.putModels(id, [{ name: "m", window: 100, price: { input: 1, output: 2, currency: "EUR" } }]);
    const holding = { counts: { ...noCounts, words: 100, letters: 500, gaps: 100 }, messages: 0 };
    home.providers.learn(id, "m", [{ holding, tokens: 150 }]);
    expect(home.providers.model(id, "m")).toMatchObject({
      window: 100,
      price: { output: 2 },
      calibration: { calls: 1 },
    });
    const { calibration } = home.providers.model(id, "m") ?? {};
    expect(calibration && tokensOf(holding, calibration)).toBeGreaterThan(140);
    home.providers.putModels(id, [{ name: "m", window: 200, price: { input: 1, output: 2, currency: "EUR" } }]);
    expect(home.providers.model(id, "m")).toMatchObject({ window: 200, calibration: { calls: 1 } });
  });

  it("know as what each model answers, since when, and as what before; the newest twenty-one are kept", () => {
    const id = home.providers.add(provider, 1);
    expect(home.providers.versionOf(id, "m")).toBeNull();
    home.providers.hearVersion(id, "m", "m-1", 10);
    home.providers.hearVersion(id, "m", "m-1", 20);
    home.providers.hearVersion(id, "n", "n-1", 25);
    expect(home.providers.versionOf(id, "m")).toEqual({ version: "m-1", since: 10 });
    home.providers.hearVersion(id, "m", "m-2", 30);
    expect(home.providers.versionOf(id, "m")).toEqual({ version: "m-2", since: 30, before: "m-1" });
    for (let at = 0; at < 50; at++) home.providers.hearVersion(id, "m", `m-${at}`, 40 + at);
    const kept = home.database.prepare("SELECT count(*) FROM model_versions WHERE model = 'm'").pluck().get();
    expect(kept).toBe(21);
    home.providers.delete(id);
    expect(home.database.prepare("SELECT count(*) FROM model_versions").pluck().get()).toBe(0);
  });

  it("keep answers that their profiles have to read, in their order, until they are deleted", () => {
    const id = home.providers.add(provider, 1);
    home.providers.setCases(id, ["one", "two"]);
    home.providers.setCases(id, ["two", "three", "two"]);
    expect(home.providers.cases(id)).toEqual(["two", "three", "two"]);
    home.providers.delete(id);
    expect(home.database.prepare("SELECT count(*) FROM provider_cases").pluck().get()).toBe(0);
  });
});

describe("recovering after a dead process", () => {
  it("ends only the replies that were under way, with all the text that was written", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const conversation = talk(home, app, 1);
    const done = home.conversations.byId(conversation)?.tip ?? "";
    const left = addTurn(home, conversation, "And?");
    const reply = left.id;
    home.events.addPage(reply, [
      { id: 1, event: "reply", data: "{}" },
      { id: 2, event: "text", data: '{"text":"Half "}' },
    ]);
    home.events.append({ reply, id: 2, event: "text", data: '{"text":"Half "}' });
    home.events.append({ reply: done, id: 3, event: "end", data: "{}" });
    home.events.append({ reply, id: 3, event: "text", data: '{"text":"a sentence"}' });

    expect(recoverReplies(home)).toBe(1);
    expect(home.messages.message(left.id)).toMatchObject({
      state: "interrupted",
      pieces: [{ text: "Half a sentence" }],
    });
    expect(home.messages.message(done)).toMatchObject({ state: "complete" });
    expect(home.events.ofReply(left.id, 2).map(({ id, event }) => [id, event])).toEqual([
      [3, "text"],
      [4, "problem"],
    ]);
    expect(recoverReplies(home)).toBe(0);
  });
});

describe("the bytes of a dispatch", () => {
  it("are the same while it is under way, when it has ended, and when a dead process left it", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const reply = home.conversations.byId(talk(home, app, 1))?.tip ?? "";
    const parts = ["small ", "x".repeat(10_000), "small again ", "and ", "y".repeat(9_000), "end"].map((part) =>
      Buffer.from(part),
    );
    const ledger = { entries: [], tokens: 1, window: 10 };
    const prices = { input: 1, output: 1, currency: "EUR" };
    const request = { method: "POST", url: "http://127.0.0.1:1/", headers: {}, body: "{}" };
    const making = home.dispatches.make("reply", null, [reply], 1);
    const begun = {
      round: 1,
      attempt: 1,
      providerId: "p",
      provider: "P",
      model: "m",
      profileText: "{}",
      request,
      ledger,
      prices,
      startedAt: 1,
    };
    const outcome = { event: "end", data: { reason: "complete" } } as const;
    for (const id of ["dis_ended", "dis_left"]) {
      home.dispatches.begin(making, { ...begun, id });
      parts.forEach((bytes, seq) => {
        home.dispatches.addChunk({ dispatch: id, seq, at: seq, arrivals: `${seq}:${bytes.length}`, bytes });
      });
      expect(home.dispatches.byId(id)?.bytes).toEqual(Buffer.concat(parts));
    }
    home.dispatches.finish({
      id: "dis_ended",
      status: 200,
      headers: {},
      outcome,
      usage: undefined,
      counted: [],
      notes: [],
      endedAt: 2,
    });
    recoverReplies(home);
    for (const id of ["dis_ended", "dis_left"]) {
      const stored = home.dispatches.byId(id);
      expect(stored?.bytes).toEqual(Buffer.concat(parts));
      expect(stored?.arrivals).toHaveLength(parts.length);
    }
    expect(home.dispatches.byId("dis_left")?.outcome).toMatchObject({ data: { kind: "interrupted" } });
    const before = ["dis_ended", "dis_left"].map((id) => home.dispatches.byId(id));
    while (home.dispatches.packOne());
    expect(["dis_ended", "dis_left"].map((id) => home.dispatches.byId(id))).toEqual(before);
    expect(home.dispatches.sizes().bytes).toBeLessThan(1_000);
  });
});

describe("the events of a reply", () => {
  it("are packed when it has ended and a day has passed, and read the same after it", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const conversation = talk(home, app, 1);
    const ended = home.conversations.byId(conversation)?.tip ?? "";
    const arriving = addTurn(home, conversation, "And?").id;
    for (const reply of [ended, arriving]) {
      home.events.addPage(reply, [{ id: 1, event: "text", data: '{"text":"Aye — \\n yes"}' }]);
      home.events.addPage(reply, [{ id: 2, event: "end", data: '{"reason":"complete"}' }]);
    }
    const before = home.events.ofReply(ended, 0);
    expect(home.events.pack(1, 10)).toBe(false);
    while (home.events.pack(2, 1));
    expect(home.database.prepare("SELECT DISTINCT reply_id FROM event_pages").pluck().all()).toEqual([arriving]);
    expect(home.events.ofReply(ended, 0)).toEqual(before);
    expect(home.events.ofReply(ended, 1).map(({ event }) => event)).toEqual(["end"]);
    expect(home.events.ofReply(ended, 0, 1)).toHaveLength(1);
    expect(home.events.lastId(ended)).toBe(2);
  });

  it("of late are let go of where they are in a page and no tab comes back for them, some at a time", () => {
    const app = home.apps.make("A", plainContent, 1).id;
    const reply = home.conversations.byId(talk(home, app, 1))?.tip ?? "";
    for (let id = 1; id <= latestKept + 50; id++) home.events.append({ reply, id, event: "text", data: "{}" });
    const first = () => home.events.afterPosition(0, 1)[0]?.position;
    home.events.dropBefore(10, 4);
    expect(first()).toBe(5);
    home.events.dropBefore(10, 100);
    expect(first()).toBe(10);
    home.events.dropBefore(Number.POSITIVE_INFINITY, 1_000);
    expect(first()).toBe(50);
    expect(home.events.lastPosition()).toBe(latestKept + 50);
  });
});

describe("what is looked for often", () => {
  it.each([
    [
      "a page of conversations",
      "SELECT * FROM conversations WHERE app_id = 'a' AND deleted_at IS NULL AND (updated_at, id) < (1, 'c') ORDER BY updated_at DESC, id DESC LIMIT 20",
    ],
    [
      "a visitor's page",
      "SELECT * FROM conversations WHERE visitor_id = 'v' AND app_id = 'a' AND deleted_at IS NULL AND (updated_at, id) < (1, 'c') ORDER BY updated_at DESC, id DESC LIMIT 20",
    ],
    ["what was deleted", "SELECT id FROM conversations WHERE deleted_at < 5 AND is_leaving = 0"],
    ["what is under way", "SELECT * FROM messages WHERE state IN ('waiting', 'arriving')"],
    ["dispatches to pack", "SELECT id FROM dispatches WHERE ended_at IS NOT NULL AND arrivals IS NULL LIMIT 1"],
    ["dispatches under way", "SELECT id, status FROM dispatches WHERE ended_at IS NULL"],
    [
      "replies to pack",
      "SELECT id FROM messages WHERE role = 'app' AND is_packed = 0 AND created_at < 5 AND state NOT IN ('waiting', 'arriving') LIMIT 5",
    ],
    [
      "the dispatches of a reply",
      "SELECT d.* FROM dispatches d JOIN made_replies r ON r.making_id = d.making_id WHERE r.reply_id = 'm' ORDER BY d.attempt",
    ],
  ])("%s is found by an index, and needs no sorting", (_what, sql) => {
    const plan = home.database.prepare<[], { detail: string }>(`EXPLAIN QUERY PLAN ${sql}`).all();
    for (const { detail } of plan) expect(detail).not.toMatch(/^SCAN (?!.*(?:under_way|unpacked))|TEMP B-TREE/);
  });
});
