import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

/** A server of one's own, in a scratch folder, for as long as it is needed. */
export interface Alone {
  address: string;
  /** Ends it, and takes its folder away. */
  end(): Promise<void>;
}

/** Thrown where it can't be started. */
export class NotStarted extends Error {}

const root = fileURLToPath(new URL("../..", import.meta.url));
/** Milliseconds that it may take to answer, and between two looks at whether it does. */
const patience = 60_000;
const pause = 100;

/** Starts one, and builds the application first where it was not yet. @throws {NotStarted} */
export async function startAlone(): Promise<Alone> {
  if (!existsSync(join(root, ".next/BUILD_ID"))) {
    const { status } = spawnSync("npm", ["run", "--silent", "build"], {
      cwd: root,
      stdio: ["ignore", "ignore", "inherit"],
    });
    if (status !== 0) throw new NotStarted("The application can't be built: npm run build says why.");
  }
  const folder = mkdtempSync(join(tmpdir(), "finch-alone-"));
  const port = await freePort();
  const child = spawn(process.execPath, ["--enable-source-maps", "built/serve.mjs"], {
    cwd: root,
    stdio: ["ignore", "ignore", "pipe"],
    env: {
      ...process.env,
      NODE_ENV: "production",
      FINCH_DATA: folder,
      FINCH_HOST: "127.0.0.1",
      FINCH_PORT: String(port),
    },
  });
  let said = "";
  child.stderr.on("data", (part: Buffer) => {
    said = `${said}${part.toString("utf8")}`.slice(-2_000);
  });
  const exited = new Promise<void>((resolve) => child.once("exit", () => resolve()));
  const end = async () => {
    child.kill("SIGTERM");
    await exited;
    rmSync(folder, { recursive: true, force: true });
  };
  const address = `http://127.0.0.1:${port}`;
  for (const until = Date.now() + patience; Date.now() < until; ) {
    if (child.exitCode !== null) break;
    if (await answers(address)) return { address, end };
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
  await end();
  throw new NotStarted(`A server of its own could not be started. ${said.trim()}`);
}

async function answers(address: string): Promise<boolean> {
  try {
    return (await fetch(`${address}/api/health`)).ok;
  } catch {
    return false;
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once("error", reject);
    probe.listen(0, "127.0.0.1", () => {
      const address = probe.address();
      probe.close(() => resolve(typeof address === "object" && address ? address.port : 0));
    });
  });
}
