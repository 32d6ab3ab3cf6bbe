import { sep } from "node:path";

/** What runs beside the server's main thread: where it is built, and where it is written. */
const files = {
  reader: "src/server/archive/reader.ts",
  writer: "src/server/archive/writer.ts",
  reading: "src/server/sources/reading/child.ts",
};

/** The file of a thread, or of a process of its own: built where this process is, else as it is written. */
export function fileToRun(name: keyof typeof files): string {
  const isBuilt = process.argv[1]?.endsWith(`${sep}built${sep}serve.mjs`);
  return `${process.cwd()}/${isBuilt ? `built/${name}.mjs` : files[name]}`;
}
