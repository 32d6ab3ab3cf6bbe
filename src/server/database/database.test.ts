import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { ProviderStore } from "../providers/provider-store";
import { signerOf } from "../security/secret";
import { openDatabase } from "./database";
import { FolderInUse, lockFolder } from "./lock";
import { storageProblem } from "./storage";

let folder = "";
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "finch-test-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe("a database", () => {
  it("is made with its tables, and opened again with what it holds", () => {
    const first = openDatabase(folder);
    first.prepare("INSERT INTO visitors (id, created_at) VALUES ('vis_1', 1)").run();
    first.close();
    const second = openDatabase(folder);
    expect(second.prepare("SELECT id FROM visitors").pluck().all()).toEqual(["vis_1"]);
    expect(second.pragma("foreign_keys", { simple: true })).toBe(1);
    expect(second.pragma("journal_mode", { simple: true })).toBe("wal");
    second.close();
  });

  it("that a newer version wrote is not touched", () => {
    const newer = openDatabase(folder);
    newer.pragma("user_version = 999");
    newer.close();
    expect(() => openDatabase(folder)).toThrow(/written by a newer Unruly Finch/);
  });

  it("has an index for every foreign key, so that deleting stays quick", () => {
    const database = openDatabase(folder);
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
    openDatabase(folder).close();
    signerOf(folder);
    writeFileSync(join(folder, "finch.sqlite"), "");
    expect(() => openDatabase(folder)).toThrow(/finch\.sqlite is empty, and held something once/);
    rmSync(join(folder, "finch.sqlite"));
    expect(() => openDatabase(folder)).toThrow(/finch\.sqlite is gone/);
  });

  it("is refused in words where its database is none", () => {
    writeFileSync(join(folder, "finch.sqlite"), "this is a text ".repeat(100));
    const failure = (() => {
      try {
        return openDatabase(folder);
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
    const database = openDatabase(folder);
    const providers = new ProviderStore(database);
    expect(providers.byName("Keyed")).toMatchObject({
      credential: { kind: "key", secret: { variable: "SOME_KEY" } },
      retries: 2,
      headers: {},
    });
    expect(providers.byName("Free")).toMatchObject({ credential: { kind: "none" }, probe: null });
    expect(providers.byName("Keyed")?.profile.source.shape).toContain("Chat completions");
    expect(providers.models("pro_1")).toMatchObject([{ name: "m", isOn: true, can: [] }]);
    database.close();
  });
});
