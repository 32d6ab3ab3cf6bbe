import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { rawTokens } from "@/core/tokens/calibration";
import { added, countsOf } from "@/core/tokens/counts";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { AppStore } from "../apps/app-store";
import { ContentStore } from "../apps/content-store";
import { ConversationStore } from "../conversations/conversation-store";
import { MessageStore } from "../conversations/message-store";
import { DispatchStore } from "../dispatches/dispatch-store";
import { EventStore } from "../live/event-store";
import { ProviderStore } from "../providers/provider-store";
import { signerOf } from "../security/secret";
import { plainContent } from "../test/conversation";
import { openDatabase } from "./database";
import { DamagedLock, FolderInUse, lockFolder } from "./lock";
import { storageProblem } from "./storage";
import { olderFolder } from "./test/older-folder";

const quiet = () => {};

let folder = "";
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "finch-test-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe("a database", () => {
  it("is made with its tables, and opened again with what it holds", () => {
    const first = openDatabase(folder, quiet);
    first.prepare("INSERT INTO visitors (id, created_at) VALUES ('vis_1', 1)").run();
    first.close();
    const second = openDatabase(folder, quiet);
    expect(second.prepare("SELECT id FROM visitors").pluck().all()).toEqual(["vis_1"]);
    expect(second.pragma("foreign_keys", { simple: true })).toBe(1);
    expect(second.pragma("journal_mode", { simple: true })).toBe("wal");
    second.close();
  });

  it("that a newer version wrote is not touched", () => {
    const newer = openDatabase(folder, quiet);
    newer.pragma("user_version = 999");
    newer.close();
    expect(() => openDatabase(folder, quiet)).toThrow(/written by a newer Unruly Finch/);
  });

  it("has an index for every foreign key, so that deleting stays quick", () => {
    const database = openDatabase(folder, quiet);
    const tables = database
      .prepare<[], { name: string }>("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
      .all();
    for (const { name } of tables) {
      const keys = database.pragma(`foreign_key_list(${name})`) as { from: string }[];
      const indexes = database.pragma(`index_list(${name})`) as { name: string }[];
      const leading = indexes.map(
        (index) => (database.pragma(`index_info(${index.name})`) as { name: string }[])[0]?.name,
      );
      for (const { from } of keys) expect([name, leading]).toEqual([name, expect.arrayContaining([from])]);
    }
    database.close();
  });
});

describe("a data folder that is not as it was left", () => {
  it("is refused in words where its database was emptied or is gone, and its secret stays", () => {
    openDatabase(folder, quiet).close();
    signerOf(folder);
    writeFileSync(join(folder, "finch.sqlite"), "");
    expect(() => openDatabase(folder, quiet)).toThrow(/finch\.sqlite is empty, and held something once/);
    rmSync(join(folder, "finch.sqlite"));
    expect(() => openDatabase(folder, quiet)).toThrow(/finch\.sqlite is gone/);
  });

  it("is refused in words where its database is none", () => {
    writeFileSync(join(folder, "finch.sqlite"), "this is a text ".repeat(100));
    const failure = (() => {
      try {
        return openDatabase(folder, quiet);
      } catch (error) {
        return storageProblem(error);
      }
    })();
    expect(failure).toMatchObject({ kind: "no-storage", detail: expect.stringContaining("finch.sqlite is damaged") });
  });

  it("is refused in words where a secret was cut", () => {
    signerOf(folder);
    writeFileSync(join(folder, "secret"), "short");
    expect(() => signerOf(folder)).toThrow(/should hold 32 bytes, and holds 5/);
  });

  it.each([
    [new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL"), /the disk is full/],
    [new Sqlite.SqliteError("attempt to write a readonly database", "SQLITE_READONLY"), /may not be written to/],
    [Object.assign(new Error("EROFS"), { code: "EROFS", syscall: "open", path: "/x" }), /may not be written to/],
  ])("is told from a mistake of one row by its error: %s", (error, saying) => {
    expect(storageProblem(error)?.detail).toMatch(saying);
    expect(
      storageProblem(new Sqlite.SqliteError("FOREIGN KEY constraint failed", "SQLITE_CONSTRAINT_FOREIGNKEY")),
    ).toBeUndefined();
  });
});

describe("the lock of a data folder", () => {
  it("is taken once, and can be taken again after it was let go", () => {
    const unlock = lockFolder(folder);
    expect(() => lockFolder(folder)).toThrow(FolderInUse);
    unlock();
    lockFolder(folder)();
  });

  it("that is damaged is told from a damaged database, and nothing is lost with it", () => {
    writeFileSync(join(folder, "lock.sqlite"), "this is a text ".repeat(100));
    expect(() => lockFolder(folder)).toThrow(DamagedLock);
    expect(() => lockFolder(folder)).toThrow(/lock\.sqlite is damaged .* delete that file/);
    rmSync(join(folder, "lock.sqlite"));
    lockFolder(folder)();
  });
});

describe("the secret of a data folder", () => {
  it("is made once, for its owner's eyes alone", () => {
    const signed = signerOf(folder).sign("vis_1");
    expect(signerOf(folder).open(signed)).toBe("vis_1");
    expect(statSync(join(folder, "secret")).mode & 0o777).toBe(0o600);
  });
});

describe("a data folder of an earlier form", () => {
  it("keeps its providers, with the key named as before and a profile that can be read", () => {
    const before = new Sqlite(join(folder, "finch.sqlite"));
    before.exec(readFileSync("src/server/database/migrations/0001-first.sql", "utf8"));
    before.pragma("user_version = 1");
    const insert = before.prepare("INSERT INTO providers VALUES (?, ?, 'http://127.0.0.1:1', '{}', ?, '{}', 1)");
    insert.run("pro_1", "Keyed", "SOME_KEY");
    insert.run("pro_2", "Free", null);
    before
      .prepare(
        "INSERT INTO models (provider_id, name, window, input_price, output_price, currency) VALUES ('pro_1', 'm', 9, 1, 2, 'EUR')",
      )
      .run();
    before.close();
    const database = openDatabase(folder, quiet);
    const providers = new ProviderStore(database);
    expect(providers.byName("Keyed")).toMatchObject({
      credential: { kind: "key", secret: { variable: "SOME_KEY" } },
      retries: 2,
      headers: {},
    });
    expect(providers.byName("Free")).toMatchObject({ credential: { kind: "none" }, probe: null });
    expect(providers.byName("Keyed")?.profile.source.shape).toContain("Chat completions");
    expect(providers.models("pro_1")).toMatchObject([{ name: "m", isOn: true, can: undefined }]);
    database.close();
  });
});

describe("a data folder whose replies were not yet made on one road", () => {
  const content = {
    prompt: "Be brief.",
    variables: {},
    provider: "pro_1",
    model: "m",
    fallbacks: [{ provider: "pro_2", model: "n" }],
    settings: {},
    memory: { kind: "everything" },
  };
  const ledger = {
    entries: [
      { part: "prompt", tokens: 6, carried: true, why: "the system prompt goes first" },
      { part: "message", message: "msg_1", tokens: 5, carried: false, why: "not carried: the turn has no answer" },
      { part: "message", message: "msg_2", tokens: 4, carried: false, why: "not carried: the turn has no answer" },
      { part: "message", message: "msg_3", tokens: 5, carried: true, why: "the message itself" },
    ],
    tokens: 11,
    rawTokens: 11,
    window: 100,
  };
  const usage = { input: 30, output: 4, estimated: false, price: 0.000123, currency: "EUR" };

  function fill(database: Sqlite.Database): void {
    const run = (sql: string, ...values: unknown[]) => database.prepare(sql).run(...values);
    const provider = `INSERT INTO providers (id, name, address, profile, limits, created_at) VALUES (?, ?, '', '${JSON.stringify(chatCompletions)}', '{}', 1)`;
    run(provider, "pro_1", "Reed Bed");
    run(provider, "pro_2", "Reed-bed!");
    run(
      "INSERT INTO apps (id, slug, name, draft, live_revision, created_at) VALUES ('app_1', 'a', 'A', ?, 1, 1)",
      JSON.stringify(content),
    );
    run("INSERT INTO revisions VALUES ('app_1', 1, 'old hash', ?, 1)", JSON.stringify(content));
    run("INSERT INTO visitors VALUES ('vis_1', 1)");
    run(
      "INSERT INTO conversations (id, app_id, visitor_id, opening, created_at, updated_at) VALUES ('con_1', 'app_1', 'vis_1', 'One?', 1, 9)",
    );
    const message = `INSERT INTO messages (id, conversation_id, parent_id, depth, role, pieces, tokens, state, facts, created_at)
      VALUES (?, 'con_1', ?, ?, ?, ?, ?, ?, ?, 1)`;
    const text = (words: string) => JSON.stringify(words === "" ? [] : [{ kind: "text", text: words }]);
    const facts = (more: object) => JSON.stringify({ revision: 1, provider: "Reed Bed", model: "m", ...more });
    run(message, "msg_1", null, 0, "visitor", text("One?"), 2, null, null);
    run(message, "msg_2", "msg_1", 1, "app", text(""), 0, "failed", facts({}));
    run(message, "msg_3", "msg_2", 2, "visitor", text("Two boats?"), 3, null, null);
    run(message, "msg_4", "msg_3", 3, "app", text("Yes, two."), 9, "complete", facts({ usage }));
    run("UPDATE conversations SET tip_id = 'msg_4'");
    run("INSERT INTO reply_events (reply_id, id, event, data) VALUES ('msg_4', 1, 'text', '{}')");
    run(
      `INSERT INTO dispatches (id, reply_id, provider_id, provider, model, profile_hash, request, ledger, prices, usage, started_at, ended_at)
       VALUES ('dis_1', 'msg_4', 'pro_1', 'Reed Bed', 'm', 'h', '{}', ?, '{}', ?, 5, 6)`,
      JSON.stringify(ledger),
      JSON.stringify(usage),
    );
    run("INSERT INTO dispatch_chunks (dispatch_id, seq, at, arrivals, bytes) VALUES ('dis_1', 0, 1, '1:2', x'6869')");
  }

  it("is brought up to date with all that it holds", () => {
    const older = olderFolder(folder, 3);
    older.pragma("foreign_keys = ON");
    fill(older);
    older.close();
    const database = openDatabase(folder, quiet);
    const apps = new AppStore(database, new ContentStore(database));
    const conversations = new ConversationStore(database);
    const messages = new MessageStore(database);

    expect(new ProviderStore(database).byId("pro_1")?.slug).toBe("reed-bed");
    const [app] = apps.all();
    const named = { ...content, provider: "reed-bed", fallbacks: [{ provider: "reed-bed-pro2", model: "n" }] };
    expect(app?.draft).toEqual(named);
    expect(apps.numberOf("app_1", app?.draftHash ?? "")).toBe(1);
    expect(conversations.byId("con_1")).toMatchObject({ origin: "http", turns: 2, tokens: 14 });

    const line = messages.line("msg_4");
    expect(line.map(({ turn }) => turn)).toEqual([1, 1, 2, 2]);
    expect(line.map(({ soFar }) => [soFar.turns, soFar.messages])).toEqual([
      [0, 0],
      [0, 0],
      [0, 0],
      [1, 2],
    ]);
    expect(line[3]).toMatchObject({ reported: 9, counts: { words: 2, marks: 2 }, soFar: { counts: { words: 4 } } });

    const events = new EventStore(database);
    expect(events.ofReply("msg_4", 0)).toMatchObject([{ id: 1, event: "text", data: "{}" }]);
    expect(events.lastPosition()).toBe(1);

    expect(database.prepare("SELECT calibration FROM models").pluck().all()).toEqual([]);
    const [dispatch] = new DispatchStore(database).ofReply("msg_4");
    expect(dispatch?.ledger).not.toHaveProperty("rawTokens");
    expect(dispatch?.ledger?.entries).toEqual([
      { part: "beside", kind: "prompt", tokens: 6, carried: true, reason: { kind: "prompt" } },
      expect.objectContaining({ first: "msg_1", turns: [1, 1], carried: false, reason: { kind: "unanswered" } }),
      expect.objectContaining({ first: "msg_2", turns: [1, 1], carried: false, reason: { kind: "unanswered" } }),
      expect.objectContaining({ first: "msg_3", turns: [2, 2], carried: true, reason: { kind: "newest" } }),
    ]);
    expect(database.prepare("SELECT app_id, revision, origin, input, price FROM spend").all()).toEqual([
      { app_id: "app_1", revision: 1, origin: "http", input: 30, price: 123 },
    ]);
    expect(database.pragma("foreign_key_check")).toEqual([]);
    database.prepare("UPDATE conversations SET tip_id = NULL").run();
    database.prepare("DELETE FROM messages WHERE id = 'msg_4'").run();
    for (const table of ["makings", "dispatches", "dispatch_chunks", "event_pages"])
      expect([table, database.prepare(`SELECT count(*) FROM ${table}`).pluck().get()]).toEqual([table, 0]);
    expect(database.prepare("SELECT count(*) FROM spend").pluck().get()).toBe(1);
    database.close();
  });
});

describe("a data folder whose texts were counted by coarser classes", () => {
  it("has them counted anew, with the sums of their lines and what their conversations hold", () => {
    const older = olderFolder(folder, 8);
    const run = (sql: string, ...values: unknown[]) => older.prepare(sql).run(...values);
    run(
      "INSERT INTO apps (id, slug, name, draft, live_revision, created_at) VALUES ('app_1', 'a', 'A', ?, 1, 1)",
      JSON.stringify(plainContent),
    );
    run(
      `INSERT INTO conversations (id, app_id, opening, origin, created_at, updated_at, tokens, number) VALUES ('con_1', 'app_1', 'a', 'bench', 1, 1, 999, 1)`,
    );
    const message = `INSERT INTO messages (id, conversation_id, parent_id, depth, turn, role, pieces, counts, so_far, state, reported, facts, created_at)
      VALUES (?, 'con_1', ?, ?, 1, ?, ?, '{"words":1,"digits":0,"signs":0,"marks":0}', '{}', ?, ?, ?, 1)`;
    const text = (words: string) => JSON.stringify([{ kind: "text", text: words }]);
    run(message, "msg_1", null, 0, "visitor", text("Which boat?"), null, null, null);
    run(
      message,
      "msg_2",
      "msg_1",
      1,
      "app",
      text("The 9:40."),
      "complete",
      7,
      '{"revision":1,"provider":"P","model":"m"}',
    );
    older.close();
    const database = openDatabase(folder, quiet);
    const messages = new MessageStore(database);
    const [asked, reply] = messages.line("msg_2");
    expect([asked?.counts, reply?.counts]).toEqual([countsOf("Which boat?"), countsOf("The 9:40.")]);
    expect(reply?.soFar).toEqual({
      turns: 1,
      messages: 2,
      counts: added(countsOf("Which boat?"), countsOf("The 9:40.")),
    });
    expect(new ConversationStore(database).byId("con_1")?.tokens).toBe(rawTokens(countsOf("Which boat?")) + 7);
    database.close();
  });
});
