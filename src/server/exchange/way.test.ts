import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, it } from "vitest";
import { dispatcherFor } from "./way";

it("a certificate file that was replaced is read again, and connections are shared until then", () => {
  const folder = mkdtempSync(join(tmpdir(), "finch-way-"));
  const caFile = join(folder, "ca.pem");
  writeFileSync(caFile, "first");
  const first = dispatcherFor({ caFile }, "https:");
  expect(dispatcherFor({ caFile }, "https:")).toBe(first);
  writeFileSync(caFile, "the second one");
  expect(dispatcherFor({ caFile }, "https:")).not.toBe(first);
  expect(dispatcherFor({}, "https:")).toBe(dispatcherFor({}, "https:"));
  rmSync(folder, { recursive: true });
  expect(() => dispatcherFor({ caFile }, "https:")).toThrow(/ENOENT/);
});
