import { spawnSync } from "node:child_process";
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { runCommand } from "./command";

let folder = "";
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "finch-test-"));
});
afterEach(() => {
  delete process.env.TEST_KEY;
  rmSync(folder, { recursive: true, force: true });
});

/** A script of a developer's, as a program. */
function script(text: string): string {
  const file = join(folder, "script.sh");
  writeFileSync(file, `#!/bin/sh\n${text}\n`);
  chmodSync(file, 0o700);
  return file;
}

/** Whether a process runs: one that has ended may wait for whoever began it to take note. */
function isThere(pid: number): boolean {
  const { status, stdout } = spawnSync("ps", ["-o", "stat=", "-p", String(pid)], { encoding: "utf8" });
  return status === 0 && !stdout.trim().startsWith("Z");
}

describe("a command", () => {
  it("gets JSON on its input and its arguments as they are, without a shell", async () => {
    const program = script('read -r line; printf "%s|" "$line" "$@"');
    expect(await runCommand([program, "a b", "$(id)", "*"], { for: "a desk" }, 5_000)).toEqual({
      kind: "done",
      output: '{"for":"a desk"}|a b|$(id)|*|',
    });
  });

  it("need not read its input", async () => {
    expect(await runCommand(["true"], { long: "x".repeat(1_000_000) }, 5_000)).toEqual({ kind: "done", output: "" });
  });

  it("gets no key of ours by its environment", async () => {
    process.env.TEST_KEY = "secret-4f2a";
    const ran = await runCommand(["env"], null, 5_000);
    expect(ran).toMatchObject({ kind: "done", output: expect.stringContaining("PATH=") });
    expect(JSON.stringify(ran)).not.toContain("4f2a");
  });

  it.each([
    ["exit 3", /^ended with 3$/, "no card"],
    ["kill -9 $$", /^ended with SIGKILL$/, "no card"],
    ["yes", /^printed more than 1 MiB$/, "no card"],
  ])("that does %j says so, with its complaint", async (does, why, complaint) => {
    const ran = await runCommand([script(`echo no card >&2; ${does}`)], null, 20_000);
    expect(ran).toMatchObject({
      kind: "failed",
      why: expect.stringMatching(why),
      complaint: expect.stringContaining(complaint),
    });
  });

  it("that is not there says so", async () => {
    expect(await runCommand([join(folder, "nothing")], null, 5_000)).toMatchObject({
      kind: "failed",
      why: `${join(folder, "nothing")} is not there`,
    });
  });

  it.each(["takes too long", "is stopped", "ends before them"])("that %s takes what it started along", async (how) => {
    const left = join(folder, "pid");
    const program = script(
      `sleep 60 & echo $! > ${left}.new; mv ${left}.new ${left}; ${how === "ends before them" ? "exit 0" : "wait"}`,
    );
    const control = new AbortController();
    const running = runCommand([program], null, how === "takes too long" ? 300 : 20_000, control.signal);
    await vi.waitFor(() => expect(existsSync(left)).toBe(true));
    if (how === "is stopped") control.abort();
    expect((await running).kind).toBe(how === "ends before them" ? "done" : "failed");
    const pid = Number(readFileSync(left, "utf8"));
    await vi.waitFor(() => expect(isThere(pid)).toBe(false));
  });
});
