import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { testFolder } from "../test/folder";
import { isStatic, staticFile } from "./static-files";

describe("a file that never changes", () => {
  const { home, remove } = testFolder();
  const text = "export const boats = 3;\n".repeat(100);
  beforeAll(() => {
    for (const [path, name] of [
      ["public/talk", "module.js"],
      [".next/static/chunks", "0abc-_~.js"],
      [".next", "secret.js"],
    ] as const) {
      mkdirSync(join(home.folder, path), { recursive: true });
      writeFileSync(join(home.folder, path, name), text);
    }
    vi.spyOn(process, "cwd").mockReturnValue(home.folder);
  });
  afterAll(() => {
    vi.restoreAllMocks();
    remove();
  });

  it("comes compressed where that is taken, and as it is elsewhere", async () => {
    const path = "/_next/static/chunks/0abc-_~.js";
    const zipped = await staticFile(path, "br, gzip;q=0.8");
    expect(zipped?.headers).toMatchObject({
      "content-encoding": "gzip",
      "content-type": "text/javascript; charset=utf-8",
      "cache-control": expect.stringContaining("immutable"),
      vary: "Accept-Encoding",
    });
    expect(zipped?.body.length).toBeLessThan(200);
    expect(gunzipSync(zipped?.body ?? "").toString()).toBe(text);
    for (const accepted of [undefined, "identity", "gzip;q=0"]) {
      const plain = await staticFile(path, accepted);
      expect([plain?.headers["content-encoding"], plain?.body.toString()]).toEqual([undefined, text]);
    }
  });

  it("is shared with other origins where it is the module alone", async () => {
    expect((await staticFile("/talk/module.js", "gzip"))?.headers).toMatchObject({
      "access-control-allow-origin": "*",
      "x-typescript-types": "./module.d.ts",
    });
    expect((await staticFile("/_next/static/chunks/0abc-_~.js", "gzip"))?.headers).not.toHaveProperty(
      "access-control-allow-origin",
    );
  });

  it.each([
    "/_next/static/chunks/../../secret.js",
    "/_next/static/chunks/%2e%2e/secret.js",
    "/_next/static/chunks/..%2fsecret.js",
    "/_next/secret.js",
    "/_next/static/chunks/",
    "/talk/module.jsx",
    "/talk/module.js/../x.js",
  ])("is none at %s", (path) => {
    expect(isStatic(path)).toBe(false);
  });

  it("that is not there is none", async () => {
    expect(isStatic("/_next/static/chunks/nothing.js")).toBe(true);
    expect(await staticFile("/_next/static/chunks/nothing.js", "gzip")).toBeUndefined();
  });
});
