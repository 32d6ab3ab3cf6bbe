import { readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import pino from "pino";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Home } from "../home";
import { testFolder } from "../test/folder";
import { openForReading } from "./database";
import { Erasing } from "./erasing";
import { mergeAll } from "./word-index";

let home: Home;
let remove: () => void;
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => remove());

const isDue = () => home.database.prepare("SELECT count(*) FROM erasing").pluck().get() === 1;
const erasingWith = (erase: () => Promise<boolean>) =>
  new Erasing(home.database, home.removal, erase, home.storage, pino({ level: "silent" }));

describe("erasing", () => {
  it("does nothing where nothing was deleted, and takes note of what was until it is gone", async () => {
    const done: string[] = [];
    const erasing = erasingWith(async () => {
      done.push("erased");
      return true;
    });
    await erasing.start();
    expect(done).toEqual([]);
    erasing.want(5);
    expect(isDue()).toBe(true);
    await erasing.start();
    expect([done, isDue()]).toEqual([["erased"], false]);
  });

  it("goes on with what was deleted while it was at it", async () => {
    let times = 0;
    const erasing: Erasing = erasingWith(async () => {
      times += 1;
      if (times === 1) erasing.want(5);
      return true;
    });
    erasing.want(5);
    await erasing.start();
    expect([times, isDue()]).toEqual([2, false]);
  });

  it("stays due where it could not be done, and where it is closed", async () => {
    const erasing: Erasing = erasingWith(async () => {
      erasing.close();
      throw new Error("The thread has ended.");
    });
    erasing.want(5);
    await erasing.start();
    expect(isDue()).toBe(true);
  });

  it("takes nothing down where even that it is done can't be written", async () => {
    const erasing: Erasing = erasingWith(async () => {
      home.database.pragma("query_only = ON");
      erasing.close();
      return true;
    });
    erasing.want(5);
    await erasing.start();
    home.database.pragma("query_only = OFF");
    expect(isDue()).toBe(true);
  });
});

describe("what is deleted", () => {
  const stands = (text: string) =>
    ["finch.sqlite", "finch.sqlite-wal"].some((name) => readFileSync(join(home.folder, name)).includes(text));

  it("is overwritten in rows, and stays in an index of words until all its parts are brought together", async () => {
    const { database } = home;
    const hash = "a".repeat(64);
    database.prepare("INSERT INTO documents (hash, kind, size, kept_at) VALUES (?, 'text', 1, 1)").run(hash);
    const cutting = home.passages.begin({ hash, size: 180, overlap: 20 });
    const text = "The Zanderholm lies here.";
    home.passages.add(cutting, 1, [{ text, from: 0, to: text.length, headings: [] }]);
    database.pragma("wal_checkpoint(TRUNCATE)");
    expect([stands("Zanderholm"), stands("zanderholm")]).toEqual([true, true]);
    expect(home.passages.leaveSome(hash, 10)).toHaveLength(1);
    expect(home.passages.leaveSome(hash, 10)).toEqual([]);
    database.pragma("wal_checkpoint(TRUNCATE)");
    expect([stands("Zanderholm"), stands("zanderholm")]).toEqual([false, true]);
    for (let isMore = mergeAll(database, "passage_words", "begin"); isMore; )
      isMore = mergeAll(database, "passage_words", "go on");
    database.pragma("wal_checkpoint(TRUNCATE)");
    expect(stands("zanderholm")).toBe(false);
    expect(mergeAll(database, "passage_words", "begin")).toBe(false);
  });

  it("is gone from the write-ahead log once nobody reads it", async () => {
    home.erasing.want(1);
    const other = openForReading(home.folder);
    other.exec("BEGIN");
    other.prepare("SELECT count(*) FROM erasing").get();
    expect(await home.writer.call("erase", null)).toBe(false);
    other.exec("COMMIT");
    expect(await home.writer.call("erase", null)).toBe(true);
    expect(statSync(join(home.folder, "finch.sqlite-wal")).size).toBe(0);
    other.close();
  });
});
