import { spawn } from "node:child_process";

/** Characters of what a command prints that are kept, and of what it complains about. */
const mostOutput = 1024 * 1024;
const mostComplaint = 2_000;

/** What a command is given of our environment: where programs are, and where they keep what is theirs. */
const passedOn = ["PATH", "HOME", "LANG", "TMPDIR"];

/** What came of a command; `why` goes on from "The command". */
export type Ran = { kind: "done"; output: string } | { kind: "failed"; why: string; output: string; complaint: string };

/** The groups of commands that run, by the id of their first process. */
const running = new Set<number>();
process.on("exit", () => {
  for (const group of running) endGroup(group);
});

/**
 * Runs a program of the developer's: without a shell, with JSON on its input, and with nothing of our environment in
 * which a key could stand. What it started ends with it, also when it takes too long, is stopped, or this process ends.
 * @param args the program and its arguments
 * @param limit milliseconds that it may take
 */
export function runCommand(
  [program, ...args]: readonly [string, ...string[]],
  input: unknown,
  limit: number,
  signal?: AbortSignal,
): Promise<Ran> {
  return new Promise((resolve) => {
    const env = Object.fromEntries(passedOn.map((name) => [name, process.env[name]]));
    const child = spawn(program, args, { env: env as NodeJS.ProcessEnv, detached: true, windowsHide: true });
    const { pid } = child;
    if (pid !== undefined) running.add(pid);
    let output = "";
    let complaint = "";
    let ended: string | undefined;
    const end = (why: string) => {
      ended ??= why;
      if (pid !== undefined) endGroup(pid);
    };
    const stop = () => end("was stopped");
    const timer = setTimeout(() => end(`took longer than ${limit / 1000} s`), limit);
    signal?.addEventListener("abort", stop);
    const settle = (ran: Ran) => {
      clearTimeout(timer);
      signal?.removeEventListener("abort", stop);
      if (pid !== undefined) running.delete(pid);
      resolve(ran);
    };
    child.stdout.setEncoding("utf8").on("data", (text: string) => {
      output += text;
      if (output.length > mostOutput) end(`printed more than ${mostOutput / 1024 / 1024} MiB`);
    });
    child.stderr.setEncoding("utf8").on("data", (text: string) => {
      complaint = (complaint + text).slice(0, mostComplaint);
    });
    // one that does not read what it is given may be gone before it is all written
    child.stdin.on("error", () => {});
    child.stdin.end(`${JSON.stringify(input)}\n`);
    child.on("error", (error: NodeJS.ErrnoException) =>
      settle({
        kind: "failed",
        why: error.code === "ENOENT" ? `${program} is not there` : `could not be started: ${error.message}`,
        output,
        complaint,
      }),
    );
    // what it left behind holds its output open
    child.on("exit", () => pid !== undefined && endGroup(pid));
    child.on("close", (code, killedBy) => {
      if (ended !== undefined) settle({ kind: "failed", why: ended, output, complaint });
      else if (code === 0) settle({ kind: "done", output });
      else settle({ kind: "failed", why: `ended with ${code ?? killedBy}`, output, complaint });
    });
    if (signal?.aborted) stop();
  });
}

function endGroup(group: number): void {
  try {
    process.kill(-group, "SIGKILL");
  } catch (error) {
    // all of it has ended by itself
    if ((error as NodeJS.ErrnoException).code !== "ESRCH") throw error;
  }
}
