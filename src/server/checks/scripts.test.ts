import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Change } from "../live/changes";
import { TestApp } from "../test/app";
import { deleteScript, scriptsOf, setScriptFolder, writeScript } from "./scripts";

const on = TestApp.each();
let folder = "";
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "finch-scripts-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const namesOf = () => scriptsOf(on.home, on.app).scripts.map(({ name }) => name);

describe("scripts of an app", () => {
  it("are written with the hash of the text that was changed, or not at all", () => {
    const { hash } = writeScript(on.home, on.app, "a", { text: "one", was: null });
    expect(() => writeScript(on.home, on.app, "a", { text: "two", was: null })).toThrow();
    expect(() => writeScript(on.home, on.app, "b", { text: "two", was: hash })).toThrow();
    writeScript(on.home, on.app, "a", { text: "two", was: hash });
    expect(scriptsOf(on.home, on.app).scripts).toMatchObject([{ name: "a", text: "two" }]);
    deleteScript(on.home, on.app, "a");
    expect(namesOf()).toEqual([]);
    expect(() => deleteScript(on.home, on.app, "a")).toThrow();
  });

  it.each(["../a", "a/b", ".a", "", "a\u0000", "a".repeat(81)])("are not called %j", (name) => {
    expect(() => writeScript(on.home, on.app, name, { text: "one", was: null })).toThrow(
      expect.objectContaining({ problem: expect.objectContaining({ kind: "bad-request" }) }),
    );
  });
});

describe("scripts in a folder", () => {
  it("are those that stand there, each change of which is told", async () => {
    const told: Change[] = [];
    const leave = on.home.changes.follow((change) => told.push(change));
    setScriptFolder(on.home, on.app, folder);
    told.length = 0;
    writeFileSync(join(folder, "a.checks"), "check  a");
    writeFileSync(join(folder, "notes.txt"), "none of them");
    await vi.waitFor(() => expect(told).toContainEqual({ event: "changed", data: { conversation: on.app.slug } }));
    expect(namesOf()).toEqual(["a"]);
    leave();
  });

  it("keep what stands there when an app begins to read it", () => {
    writeScript(on.home, on.app, "a", { text: "mine", was: null });
    writeScript(on.home, on.app, "b", { text: "mine", was: null });
    writeFileSync(join(folder, "a.checks"), "theirs");
    setScriptFolder(on.home, on.app, folder);
    expect(scriptsOf(on.home, on.app).scripts.map(({ text }) => text)).toEqual(["theirs", "mine"]);
  });

  it("are told of where one of them can't be read, and the others are read", () => {
    setScriptFolder(on.home, on.app, folder);
    writeFileSync(join(folder, "a.checks"), "check  a");
    mkdirSync(join(folder, "b.checks"));
    writeFileSync(join(folder, "c.checks"), Buffer.alloc(3_000_000, "a"));
    const { problem } = scriptsOf(on.home, on.app);
    expect([namesOf(), problem?.detail]).toEqual([["a"], expect.stringMatching(/b\.checks is no file/)]);
    expect(() => setScriptFolder(on.home, on.app, "not/whole")).toThrow();
    rmSync(folder, { recursive: true });
    expect(scriptsOf(on.home, on.app).problem?.detail).toMatch(/is not there/);
  });
});
