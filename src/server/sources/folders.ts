import { type FSWatcher, readdirSync, readFileSync, statSync, watch } from "node:fs";
import { isAbsolute, join, relative, sep } from "node:path";
import { type Problem, problem } from "@/core/problem/problem";
import { kindOf, looksAt } from "@/core/sources/kinds";
import { largestDocument, type Origin } from "@/core/sources/origin";
import { mostDocuments } from "@/core/sources/sources";
import { refuse } from "../ground/refusal";
import type { HasDocuments } from "./document-store";
import type { HasSources, StoredSource } from "./source-store";
import { addDocument } from "./sources";

/** Folders within each other that are gone into. */
const deepest = 4;

/** A folder of documents as it stands: what was found in it, and why the rest could not be taken. */
export interface FolderReading {
  sources: StoredSource[];
  /** By the path of a file in it, or "" for the folder itself. */
  problems: { file: string; problem: Problem }[];
}

/** Has an app take the documents of a folder, and those that come into it. @throws {Refusal} where it can't be read */
export function addFolder(home: HasSources & HasDocuments, app: string, path: string): FolderReading {
  if (!isAbsolute(path))
    refuse("bad-request", `${path} is no whole path.`, { advice: "Begin it at the root of the file system." });
  const reading = readFolder(home, app, path);
  const own = reading.problems.find(({ file }) => file === "");
  if (own) refuse("bad-request", own.problem.detail, { advice: own.problem.advice });
  home.sources.addFolder(app, path);
  return reading;
}

/** Reads what stands in a folder: files that are new or have changed become documents, or newer versions of them. */
export function readFolder(home: HasSources & HasDocuments, app: string, path: string): FolderReading {
  const reading: FolderReading = { sources: [], problems: [] };
  for (const found of filesIn(path, deepest)) {
    if ("problem" in found) {
      reading.problems.push(found);
      continue;
    }
    if (reading.sources.length >= mostDocuments) {
      const most = problem(
        "too-large",
        `${path} holds more than ${mostDocuments} documents; the first of them are taken.`,
      );
      reading.problems.push({ file: "", problem: most });
      break;
    }
    const origin: Origin = { kind: "folder", folder: path, file: found.file };
    const kind = kindOf(found.bytes.subarray(0, looksAt));
    if (kind.kind === "unreadable")
      reading.problems.push({ file: found.file, problem: problem("bad-request", `${found.file} is ${kind.is}.`) });
    else {
      const document = home.documents.keep(found.bytes, kind.kind, Date.now());
      reading.sources.push(addDocument(home, app, found.file, origin, document));
    }
  }
  return reading;
}

type FoundFile = { file: string; bytes: Buffer } | { file: string; problem: Problem };

/** The files in a folder, in the order of their names; what begins with a dot is passed over. */
function* filesIn(path: string, depth: number, root = path): Generator<FoundFile> {
  const named = (at: string) => relative(root, at).split(sep).join("/");
  try {
    for (const entry of readdirSync(path, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const at = join(path, entry.name);
      if (entry.name.startsWith(".")) continue;
      if (entry.isDirectory() && depth > 1) yield* filesIn(at, depth - 1, root);
      if (!entry.isFile()) continue;
      const { size } = statSync(at);
      if (size > largestDocument)
        yield {
          file: named(at),
          problem: problem("too-large", `${named(at)} has ${size} bytes, and a document up to ${largestDocument}.`),
        };
      else yield { file: named(at), bytes: readFileSync(at) };
    }
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const why =
      { ENOENT: "is not there", EACCES: "may not be read", ENOTDIR: "is no folder" }[code ?? ""] ??
      `can't be read (${code})`;
    yield {
      file: named(path),
      problem: problem("misconfigured", `${path} ${why}.`, { advice: "Put it there, or name another folder." }),
    };
  }
}

/** Milliseconds that a folder rests before it is read again: a file is written in several goes. */
const rest = 300;

/** Watches the folders of apps, and tells when something in one changed. */
export class FolderWatch {
  private readonly watchers = new Map<string, { watcher: FSWatcher; timer?: NodeJS.Timeout }>();

  /** @param changed is told of a folder that changed */
  constructor(private readonly changed: (app: string, path: string) => void) {}

  /** Watches the folders of an app, and none other of it. */
  watch(app: string, paths: readonly string[]): void {
    const wanted = new Set(paths.map((path) => keyOf(app, path)));
    for (const key of this.watchers.keys()) if (key.startsWith(keyOf(app, "")) && !wanted.has(key)) this.leave(key);
    for (const path of paths) this.begin(app, path);
  }

  close(): void {
    for (const key of [...this.watchers.keys()]) this.leave(key);
  }

  private begin(app: string, path: string): void {
    const key = keyOf(app, path);
    if (this.watchers.has(key)) return;
    try {
      const watcher = watch(path, { persistent: false, recursive: true }, () => this.hear(app, path));
      watcher.on("error", () => this.hear(app, path));
      this.watchers.set(key, { watcher });
    } catch {
      // that it can't be read is told where it is read
    }
  }

  private hear(app: string, path: string): void {
    const watched = this.watchers.get(keyOf(app, path));
    if (!watched) return;
    clearTimeout(watched.timer);
    watched.timer = setTimeout(() => this.changed(app, path), rest);
    watched.timer.unref();
  }

  private leave(key: string): void {
    const watched = this.watchers.get(key);
    clearTimeout(watched?.timer);
    watched?.watcher.close();
    this.watchers.delete(key);
  }
}

function keyOf(app: string, path: string): string {
  return `${app} ${path}`;
}

/** A parameter that has `folderWatch`. */
export interface HasFolderWatch {
  folderWatch: FolderWatch;
}
