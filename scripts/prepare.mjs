// Makes a clone ready to run: packages installed, application built. Plain JavaScript, since it
// runs before anything is installed.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { join } from "node:path";
import { parseEnv } from "node:util";
import { buildModule } from "./module.mjs";
import { buildProcesses } from "./processes.mjs";

// what is started from here tells nobody that it was
process.env.NEXT_TELEMETRY_DISABLED = "1";

/** Runs a command to its end; ends this process where it fails. */
export function run(command, args, env = {}) {
  const { status } = spawnSync(command, args, { stdio: "inherit", env: { ...process.env, ...env } });
  if (status !== 0) process.exit(status ?? 1);
}

/** The command line of a tool that is installed in this project. */
export function tool(path, ...args) {
  return [process.execPath, [join("node_modules", path), ...args]];
}

/** The command line of a TypeScript file of this project. */
export function script(path, ...args) {
  return [process.execPath, ["--import", "tsx", path, ...args]];
}

/**
 * How the server's garbage is collected. With many streams much lives for a second or two: there is room for it among
 * what is young, so that it is let go of cheaply. When little happens nothing is collected just to give memory back:
 * that takes as long as some hundred events, and what is young has hardly any room after it.
 */
const collecting = ["--min-semi-space-size=16", "--max-semi-space-size=64", "--no-memory-reducer"];

/**
 * The command line of the server, with what is loaded before it.
 * @param {string[]} loaded
 * @returns {[string, string[]]}
 */
export function server(...loaded) {
  const before = (loaded.length > 0 ? ["tsx", ...loaded] : []).flatMap((module) => ["--import", module]);
  return [process.execPath, [...collecting, ...before, "--enable-source-maps", "built/serve.mjs"]];
}

/**
 * The command line of the stand-ins.
 * @returns {[string, string[]]}
 */
export function standInServer() {
  return [process.execPath, ["--enable-source-maps", "built/standins.mjs", "--switched-on"]];
}

/** Installs the packages where they are missing or older than the lockfile. */
export function install() {
  const mark = "node_modules/.package-lock.json";
  if (existsSync(mark) && statSync(mark).mtimeMs >= statSync("package-lock.json").mtimeMs) return;
  console.log("Installing packages. One of them is compiled, which can take two minutes.");
  run("npm", ["ci", "--no-audit", "--no-fund"]);
}

/** Builds the application where something it is made of is newer than the last build. */
export async function build() {
  const mark = ".next/BUILD_ID";
  const made = existsSync(mark) ? statSync(mark).mtimeMs : 0;
  const sources = ["src", "scripts", "package-lock.json", "next.config.ts", "tsconfig.json"];
  if (made > 0 && sources.every((source) => newest(source) < made)) return;
  console.log("Building the application.");
  await buildModule();
  await buildProcesses();
  run(...tool("next/dist/bin/next", "build"));
  writeFileSync(mark, readFileSync(mark));
}

function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/**
 * Where the server listens, from the environment. Where more than this machine is listened to, pages and apps get
 * a port of their own.
 */
export function place() {
  const host = process.env.FINCH_HOST ?? "127.0.0.1";
  const port = Number(process.env.FINCH_PORT ?? 4600);
  if (!/^(?:localhost|127(?:\.\d{1,3}){3}|::1)$/.test(host)) process.env.FINCH_TALK_PORT ??= String(port + 1);
  return { host, port };
}

/** Ends this process with advice where a port is taken. */
export async function needPort(port, host, variable) {
  const isFree = await new Promise((resolve) => {
    const probe = createServer();
    probe.once("error", () => resolve(false));
    probe.listen(port, host, () => probe.close(() => resolve(true)));
  });
  if (isFree) return;
  console.error(
    `Port ${port} on ${host} is taken. Stop what listens there, or choose another: ${variable}=${port + 1} npm run ${process.env.npm_lifecycle_event ?? "demo"}`,
  );
  process.exit(1);
}

/** The keys of the stand-ins, where neither the environment nor .env has them. */
export function sampleKeys() {
  const own = existsSync(".env") ? parseEnv(readFileSync(".env", "utf8")) : {};
  const samples = Object.entries(parseEnv(readFileSync(".env.example", "utf8")));
  return Object.fromEntries(samples.filter(([name]) => !(name in process.env) && !(name in own)));
}

/** Milliseconds that a command has for ending in good order. */
const patience = 11_000;
/** Milliseconds within which signals count as one: a terminal and npm both send theirs. */
const oneSignal = 300;

/**
 * Runs several commands until one ends or this process is told to end; then ends them, the last one
 * first, since it may still need the others. A second signal ends them at once. Each has a process group
 * of its own, so that a terminal's Ctrl+C reaches it through here alone.
 */
export function together(commands) {
  const children = commands.map(([command, args, env]) =>
    spawn(command, args, { stdio: "inherit", detached: true, env: { ...process.env, ...env } }),
  );
  const exits = children.map(
    (child) => new Promise((resolve) => child.once("exit", (status, signal) => resolve(signal ? 1 : (status ?? 1)))),
  );
  let told;
  let ending;
  const end = () => {
    ending ??= (async () => {
      for (const at of [...children.keys()].reverse()) {
        children[at].kill("SIGTERM");
        const timer = setTimeout(() => children[at].kill("SIGKILL"), patience);
        await exits[at];
        clearTimeout(timer);
      }
    })();
    return ending;
  };
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"])
    process.on(signal, () => {
      const now = performance.now();
      if (told !== undefined && now - told < oneSignal) return;
      if (told !== undefined) for (const child of children) child.kill("SIGKILL");
      told ??= now;
      void end();
    });
  return Promise.race(exits).then(async (status) => {
    await end();
    process.exit(told === undefined ? status : 0);
  });
}

/** Prints a line once the server answers. */
export async function whenReady(address, say) {
  for (;;) {
    const isReady = await fetch(`${address}/api/health`).then(
      (response) => response.ok,
      () => false,
    );
    if (isReady) return say();
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
