import { readFile } from "node:fs/promises";
import { extname, join } from "node:path";
import { promisify } from "node:util";
import { gzip } from "node:zlib";
import Negotiator from "negotiator";

/**
 * Files that never change while the process runs: scripts and styles of the pages, and the module for front ends. Each
 * is read and compressed once, and kept both ways: a page is then there much sooner over a network, and costs little.
 */

/** A file as it is served. */
interface StaticFile {
  headers: Record<string, string>;
  plain: Buffer;
  zipped: Buffer;
}

const types: Record<string, string> = {
  ".js": "text/javascript; charset=utf-8",
  ".css": "text/css; charset=utf-8",
  ".ts": "application/typescript; charset=utf-8",
};

/** Where files of each kind are, by the beginning of their addresses, and what is said along with them. */
const places: { path: RegExp; file: (path: string) => string; headers: (path: string) => Record<string, string> }[] = [
  {
    path: /^\/talk\/module\.(?:js|d\.ts)$/,
    file: (path) => `public${path}`,
    headers: (path) => ({
      "cache-control": "no-cache",
      // a page of any origin may load it: it holds nothing of anybody
      "access-control-allow-origin": "*",
      ...(path.endsWith(".js") ? { "x-typescript-types": "./module.d.ts" } : {}),
    }),
  },
  {
    // named by what they hold
    path: /^\/_next\/static\/chunks\/[\w.~-]+\.(?:js|css)$/,
    file: (path) => path.replace("/_next/", ".next/"),
    headers: () => ({ "cache-control": "public, max-age=31536000, immutable" }),
  },
];

const files = new Map<string, Promise<StaticFile>>();

/** Whether a path is that of such a file, if there is one. */
export function isStatic(path: string): boolean {
  return places.some((each) => each.path.test(path));
}

/** A file at a path, compressed where whoever asks takes that; undefined where there is none. */
export async function staticFile(
  path: string,
  accepted: string | undefined,
): Promise<{ headers: Record<string, string>; body: Buffer } | undefined> {
  const reading = files.get(path) ?? read(path);
  files.set(path, reading);
  let file: StaticFile;
  try {
    file = await reading;
  } catch (error) {
    files.delete(path);
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return undefined;
    throw error;
  }
  const isZipped =
    new Negotiator({ headers: { "accept-encoding": accepted } }).encoding(["gzip", "identity"]) === "gzip";
  return {
    headers: isZipped ? { ...file.headers, "content-encoding": "gzip" } : file.headers,
    body: isZipped ? file.zipped : file.plain,
  };
}

async function read(path: string): Promise<StaticFile> {
  const place = places.find((each) => each.path.test(path));
  if (!place) throw new Error(`${path} is no path of a static file.`);
  const name = place.file(path);
  const plain = await readFile(join(process.cwd(), name));
  const headers = {
    "content-type": types[extname(name)] ?? "application/octet-stream",
    vary: "Accept-Encoding",
    "x-content-type-options": "nosniff",
    ...place.headers(path),
  };
  return { headers, plain, zipped: await promisify(gzip)(plain, { level: 9 }) };
}
