import type { Content } from "@/core/revision/content";
import { isDigestOf, longestWhole } from "@/core/sources/digest";
import { textOfBlocks } from "@/core/sources/document";
import type { FoundPassage } from "@/core/sources/found";
import { added, type Counts, countsOf } from "@/core/tokens/counts";
import type { DocumentStore, HasDocuments } from "./document-store";
import { type FindingNeeds, type Findings, findPassages } from "./finding";
import type { HasSources, NamedDocument } from "./source-store";

/** Counts by the hash of a document, or by the text of a digest: counting a long one takes milliseconds. */
const counted = new Map<string, Counts>();
const mostCounted = 200;
/** How many times its text a document is kept in, at most, with the kinds and pages of its blocks. */
const mostKept = 4;

/** The documents of a content that go along whole: each as a passage that is all of it, or its digest. */
export function wholesOf(home: HasSources & HasDocuments, content: Content): Findings {
  const found: FoundPassage[] = [];
  const unready: string[] = [];
  for (const { source, hash, digest } of wholesIn(home, content)) {
    const text = digest ?? wholeText(home.documents, hash);
    if (text === undefined) {
      unready.push(source.id);
      continue;
    }
    found.push({
      passage: `whole ${source.id}`,
      whole: digest === undefined ? "text" : "digest",
      source: source.id,
      version: hash,
      title: source.title,
      short: source.short,
      text,
      where: { from: 0, to: text.length, headings: [] },
      likeness: 1,
    });
  }
  return { found, unready };
}

/** What goes along with a message of the documents of a content: those that do whole, and the passages that it finds in the others. */
export async function findFor(
  home: FindingNeeds & HasDocuments,
  app: string,
  content: Content,
  message: string,
  signal?: AbortSignal,
): Promise<Findings> {
  const wholes = wholesOf(home, content);
  const findings = await findPassages(home, app, content, message, signal);
  return {
    ...findings,
    found: [...wholes.found, ...findings.found],
    unready: [...wholes.unready, ...findings.unready],
  };
}

/** Counts of the documents that go along whole; undefined where none does. Each is read and counted once. */
export function countsOfWholes(home: HasSources & HasDocuments, content: Content): Counts | undefined {
  const all = wholesIn(home, content).flatMap(({ hash, digest }) => {
    const name = digest ?? hash;
    const known = counted.get(name);
    if (known) return [known];
    const text = digest ?? wholeText(home.documents, hash);
    if (text === undefined) return [];
    const counts = countsOf(text);
    if (counted.size >= mostCounted) counted.clear();
    counted.set(name, counts);
    return [counts];
  });
  return all.length === 0 ? undefined : all.reduce(added);
}

/** The documents of a content that go along whole, each by its version, with its digest where it has one. */
function wholesIn(
  { sources }: HasSources,
  { sources: named }: Content,
): { source: NamedDocument; hash: string; digest?: string }[] {
  return (named?.documents ?? []).flatMap(({ source: id, version, whole }) => {
    const source = whole && sources.named(id);
    if (!source) return [];
    const hash = version ?? source.hash;
    return [{ source, hash, digest: isDigestOf(whole.digest, hash) ? whole.digest?.text : undefined }];
  });
}

/** The text of a document; undefined where it is not read, holds nothing, or is too long to go along as it is. */
function wholeText(documents: DocumentStore, hash: string): string | undefined {
  // what is far too long is not even looked at
  if (documents.find(hash)?.readAt == null || documents.lengthKept(hash) > longestWhole * mostKept) return undefined;
  const { text } = textOfBlocks(documents.blocks(hash));
  return text === "" || text.length > longestWhole ? undefined : text;
}
