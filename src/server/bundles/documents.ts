import { readFileSync } from "node:fs";
import type { BundledBytes, BundledDocument } from "@/core/bundle/bundle";
import type { Content } from "@/core/revision/content";
import { refuse } from "../ground/refusal";
import type { HasDocuments } from "../sources/document-store";
import type { HasSources } from "../sources/source-store";
import { kept } from "../sources/sources";

/** What of the process is used here. */
export type DocumentsNeeds = HasSources & HasDocuments;

/** Bytes that all documents of a bundle may have together. */
const mostBytes = 16 * 1024 * 1024;

/** The documents that contents answer from, with their bytes. @throws {Refusal} `too-large` */
export function bundledDocuments(
  { sources, documents }: DocumentsNeeds,
  contents: readonly Content[],
): BundledDocument[] {
  const named = contents.flatMap((content) => content.sources?.documents ?? []);
  let bytes = 0;
  return [...new Set(named.map(({ source }) => source))].flatMap((id) => {
    const source = sources.byId(id);
    // one that was deleted holds no answer any more
    if (!source) return [];
    const { title, short, origin } = source;
    const fixed = named.flatMap(({ source, version }) => (source === id && version ? [version] : []));
    const hashes = [...new Set([source.hash, ...fixed])].filter((hash) => documents.find(hash));
    for (const hash of hashes) bytes += documents.find(hash)?.size ?? 0;
    if (bytes > mostBytes)
      refuse("too-large", `The documents of this app have more than ${mostBytes / 1024 / 1024} MiB.`, {
        advice: "Leave the largest out of it, and add them where the bundle is used.",
      });
    const versions = hashes.map((hash) => ({ hash, ...written(readFileSync(documents.pathOf(hash))) }));
    return [{ title, short, origin, versions }];
  });
}

/**
 * Gives an app the documents of a bundle.
 * @param ids the documents' new ids, by their short names
 * @throws {Refusal} where one is none, or is not what the bundle says
 */
export function addDocuments(
  home: DocumentsNeeds,
  app: string,
  bundled: readonly BundledDocument[],
  ids: ReadonlyMap<string, string>,
): void {
  for (const { title, short, origin, versions } of bundled) {
    const [newest] = versions.map((version) => {
      const { hash } = kept(home.documents, title, bytesOf(version));
      if (hash !== version.hash)
        refuse("bad-request", `${title} is not what this file says that it is: its bytes are others.`, {
          advice: "Write the file anew: finch export.",
        });
      return hash;
    });
    if (newest) home.sources.add({ id: ids.get(short), app, title, short, origin, hash: newest }, Date.now());
  }
}

/** Bytes in lines, where these give the same bytes again. */
function written(bytes: Buffer): { lines: string[] } | { base64: string } {
  const text = bytes.toString("utf8");
  return Buffer.from(text).equals(bytes) ? { lines: text.split("\n") } : { base64: bytes.toString("base64") };
}

function bytesOf(version: BundledBytes): Buffer {
  return "lines" in version ? Buffer.from(version.lines.join("\n")) : Buffer.from(version.base64, "base64");
}
