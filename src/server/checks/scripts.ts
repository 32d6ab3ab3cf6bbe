import { createHash } from "node:crypto";
import {
  type FSWatcher,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  watch,
  writeFileSync,
} from "node:fs";
import { isAbsolute, join } from "node:path";
import { isScriptName, longestScript } from "@/core/checks/script";
import { type Problem, problem } from "@/core/problem/problem";
import type { StoredApp } from "../apps/app-store";
import { refuse } from "../ground/refusal";
import type { Changes, HasChanges } from "../live/changes";
import type { HasScripts } from "./script-store";

/** A script of an app, wherever it is kept. */
export interface AppScript {
  name: string;
  text: string;
  /** SHA-256 of its text, by which one tells whether it was changed meanwhile. */
  hash: string;
  updatedAt: number;
}

/** The scripts of an app, and where they are. */
export interface AppScripts {
  scripts: AppScript[];
  /** The folder that they are read from; null where the app keeps them. */
  folder: string | null;
  /** Why some or all of the folder can't be read. */
  problem: Problem | null;
}

/** What scripts are called: the part before it is theirs. */
export const scriptEnding = ".checks";
/** Scripts that a folder may have. */
const mostScripts = 200;

/** The scripts of an app: those that it keeps, or those that stand in its folder right now. */
export function scriptsOf({ scripts }: HasScripts, { id }: Pick<StoredApp, "id">): AppScripts {
  const folder = scripts.folder(id);
  if (folder === null)
    return {
      scripts: scripts.ofApp(id).map((each) => ({ ...each, hash: hashOfText(each.text) })),
      folder,
      problem: null,
    };
  try {
    const names = readdirSync(folder)
      .filter((name) => name.endsWith(scriptEnding) && !name.startsWith("."))
      .sort();
    const read = names.slice(0, mostScripts).map((name) => fromFile(folder, name));
    const failed = read.find((each) => each.kind === "unread");
    const many = `${folder} holds ${names.length} scripts, of which the first ${mostScripts} are read.`;
    return {
      scripts: read.flatMap((each) => (each.kind === "read" ? [each.script] : [])),
      folder,
      problem:
        (failed?.kind === "unread" ? failed.problem : undefined) ??
        (names.length > mostScripts ? problem("too-large", many) : null),
    };
  } catch (error) {
    return { scripts: [], folder, problem: unread(folder, error) };
  }
}

function fromFile(
  folder: string,
  name: string,
): { kind: "read"; script: AppScript } | { kind: "unread"; problem: Problem } {
  const path = join(folder, name);
  try {
    const stats = statSync(path);
    const { size, mtimeMs } = stats;
    if (!stats.isFile()) return { kind: "unread", problem: problem("misconfigured", `${path} is no file.`) };
    if (size > longestScript * 4)
      return {
        kind: "unread",
        problem: problem("too-large", `${path} has ${size} bytes, which is too much for a script.`),
      };
    const text = readFileSync(path, "utf8");
    const script = {
      name: name.slice(0, -scriptEnding.length),
      text,
      hash: hashOfText(text),
      updatedAt: Math.round(mtimeMs),
    };
    return { kind: "read", script };
  } catch (error) {
    return { kind: "unread", problem: unread(path, error) };
  }
}

function unread(path: string, error: unknown): Problem {
  const code = (error as NodeJS.ErrnoException).code;
  const why =
    { ENOENT: "is not there", EACCES: "may not be read", ENOTDIR: "is no folder" }[code ?? ""] ??
    `can't be read (${code})`;
  return problem("misconfigured", `${path} ${why}.`, { advice: "Put it there, or choose another folder." });
}

export function hashOfText(text: string): string {
  return createHash("sha256").update(text).digest("hex");
}

/**
 * Writes a script, into the app or into its folder.
 * @param was the hash of the text that was changed; null for a new script
 * @throws {Refusal} `conflict` where it was changed meanwhile
 */
export function writeScript(
  home: HasScripts & HasChanges,
  app: StoredApp,
  name: string,
  { text, was }: { text: string; was: string | null },
): AppScript {
  if (!isScriptName(name))
    refuse("bad-request", `A script can't be called ${JSON.stringify(name)}.`, {
      advice: "A name has letters, figures, spaces, _ and -, up to 80 of them.",
    });
  const { scripts, folder } = scriptsOf(home, app);
  const there = scripts.find((each) => each.name === name);
  if ((there?.hash ?? null) !== was)
    refuse("conflict", there ? `${name} was changed meanwhile.` : `${name} was deleted meanwhile.`, {
      advice: "Copy what you wrote, read it anew, and put it in.",
    });
  if (folder === null) home.scripts.put(app.id, name, text, Date.now());
  else {
    const path = join(folder, `${name}${scriptEnding}`);
    try {
      writeFileSync(`${path}.part`, text);
      renameSync(`${path}.part`, path);
    } catch (error) {
      refuse("misconfigured", `${path} can't be written (${(error as NodeJS.ErrnoException).code}).`, {
        advice: "See to it that the folder may be written.",
      });
    }
  }
  home.changes.tell(app.slug);
  return { name, text, hash: hashOfText(text), updatedAt: Date.now() };
}

/** Deletes a script. @throws {Refusal} `not-found` */
export function deleteScript(home: HasScripts & HasChanges, app: StoredApp, name: string): void {
  const { scripts, folder } = scriptsOf(home, app);
  if (!scripts.some((each) => each.name === name)) refuse("not-found", `${app.name} has no script ${name}.`);
  if (folder === null) home.scripts.delete(app.id, name);
  else rmSync(join(folder, `${name}${scriptEnding}`), { force: true });
  home.changes.tell(app.slug);
}

/**
 * Has an app's scripts read from a folder, to which those that it keeps are written where they are not there yet; or,
 * with null, kept by the app again, as they stand in the folder. @throws {Refusal} where the folder can't be had
 */
export function setScriptFolder(
  home: HasScripts & HasChanges & HasScriptWatch,
  app: StoredApp,
  folder: string | null,
): void {
  const { scripts } = scriptsOf(home, app);
  if (folder === null) for (const { name, text } of scripts) home.scripts.put(app.id, name, text, Date.now());
  else {
    if (!isAbsolute(folder))
      refuse("bad-request", `${folder} is no whole path.`, { advice: "Begin it at the root of the file system." });
    try {
      mkdirSync(folder, { recursive: true });
      const there = new Set(readdirSync(folder));
      for (const { name, text } of scripts)
        if (!there.has(`${name}${scriptEnding}`)) writeFileSync(join(folder, `${name}${scriptEnding}`), text);
    } catch (error) {
      refuse("misconfigured", `${folder} can't be had (${(error as NodeJS.ErrnoException).code}).`, {
        advice: "Choose a folder that you may write.",
      });
    }
  }
  home.scripts.setFolder(app.id, folder);
  home.scriptWatch.watch(app, folder);
  home.changes.tell(app.slug);
}

/** Milliseconds that a folder rests before it is told that it changed: an editor writes a file in several goes. */
const rest = 150;

/** Watches the folders of scripts, and tells those who look that something in one changed. */
export class ScriptWatch {
  private readonly watchers = new Map<string, { folder: string; watcher: FSWatcher; timer?: NodeJS.Timeout }>();

  constructor(private readonly changes: Changes) {}

  /** Watches the folder of an app, and none other of it. */
  watch({ id: app, slug }: Pick<StoredApp, "id" | "slug">, folder: string | null): void {
    const known = this.watchers.get(app);
    if (known?.folder === folder) return;
    this.leave(app);
    if (folder === null) return;
    try {
      const watcher = watch(folder, { persistent: false }, () => this.changed(app, slug));
      // one that is taken away is read anew, and then can't be
      watcher.on("error", () => this.changed(app, slug));
      this.watchers.set(app, { folder, watcher });
    } catch {
      // that it can't be read is told where it is read
    }
  }

  close(): void {
    for (const app of [...this.watchers.keys()]) this.leave(app);
  }

  private changed(app: string, slug: string): void {
    const watched = this.watchers.get(app);
    if (!watched) return;
    clearTimeout(watched.timer);
    watched.timer = setTimeout(() => this.changes.tell(slug), rest);
    watched.timer.unref();
  }

  private leave(app: string): void {
    const watched = this.watchers.get(app);
    clearTimeout(watched?.timer);
    watched?.watcher.close();
    this.watchers.delete(app);
  }
}

/** A parameter that has `scriptWatch`. */
export interface HasScriptWatch {
  scriptWatch: ScriptWatch;
}
