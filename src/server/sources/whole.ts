import type { Content } from "@/core/revision/content";
import { isDigestOf, longestWhole } from "@/core/sources/digest";
import { textOfBlocks } from "@/core/sources/document";
import type { FoundPassage } from "@/core/sources/found";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { DocumentStore, HasDocuments } from "./document-store";
import { type FindingNeeds, type Findings, findPassages } from "./finding";
import type { HasSources } from "./source-store";

/** How many times its text a document is kept in, at most, with the kinds and pages of its blocks. */
const mostKept = 4;

/** The documents of a content that go along whole: each as a passage that is all of it, or its digest. */
export function wholesOf({ sources, documents }: HasSources & HasDocuments, { sources: named }: Content): Findings {
  const found: FoundPassage[] = [];
  const unready: string[] = [];
  for (const { source: id, version, whole } of named?.documents ?? []) {
    const source = whole && sources.named(id);
    if (!source) continue;
    const hash = version ?? source.hash;
    const isDigest = isDigestOf(whole.digest, hash);
    const text = isDigest ? whole.digest?.text : wholeText(documents, hash);
    if (text === undefined) {
      unready.push(id);
      continue;
    }
    found.push({
      passage: `whole ${id}`,
      whole: isDigest ? "digest" : "text",
      source: id,
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

/** Tokens that the documents have which go along whole, about. */
export function tokensOfWholes(home: HasSources & HasDocuments, content: Content): number {
  return wholesOf(home, content).found.reduce((sum, { text }) => sum + rawTokens(countsOf(text)), 0);
}

/** The text of a document; undefined where it is not read, holds nothing, or is too long to go along as it is. */
function wholeText(documents: DocumentStore, hash: string): string | undefined {
  // what is far too long is not even looked at
  if (documents.find(hash)?.readAt == null || documents.lengthKept(hash) > longestWhole * mostKept) return undefined;
  const { text } = textOfBlocks(documents.blocks(hash));
  return text === "" || text.length > longestWhole ? undefined : text;
}
