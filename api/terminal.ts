import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import type { World } from "../e2e/fixtures";

/** What a command of the terminal said, and the code that it ended with. */
export interface Said {
  code: number | null;
  out: string;
  err: string;
}

/**
 * Runs `finch`, as somebody would in a terminal.
 * @param onStart is given the process, to signal it when it is time
 */
export async function finch(
  world: World,
  args: readonly string[],
  { env = {}, onStart }: { env?: Record<string, string>; onStart?: (child: ChildProcess) => Promise<void> } = {},
): Promise<Said> {
  const child = spawn(process.execPath, ["bin/finch.mjs", ...args], {
    env: { ...process.env, FINCH_ADDRESS: world.address, ...env },
  });
  let [out, err] = ["", ""];
  child.stdout.on("data", (part) => {
    out += part;
  });
  child.stderr.on("data", (part) => {
    err += part;
  });
  const [[code]] = (await Promise.all([once(child, "close"), onStart?.(child)])) as [[number | null], undefined];
  return { code, out, err };
}
