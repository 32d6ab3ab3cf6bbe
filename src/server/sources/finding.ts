import type { Content } from "@/core/revision/content";
import type { FoundPassage } from "@/core/sources/found";
import { termsOf } from "@/core/sources/query";
import { filledSources } from "@/core/sources/sources";
import type { FittingPassage, HasPassages } from "./passage-store";
import type { HasSources, StoredSource } from "./source-store";

/** What a message finds in the documents of a content, and the documents that it could not be looked for in yet. */
export interface Findings {
  /** The best first. */
  found: FoundPassage[];
  /** Ids of documents that are not read, or not cut, yet. */
  unready: string[];
}

/** Finds passages for a message in the documents of a content, by their words. */
export function findPassages(home: HasSources & HasPassages, content: Content, message: string): Findings {
  const { ready, unready } = cuttingsFor(home, content);
  const all = home.passages.find([...ready.keys()], termsOf(message));
  const best = all[0]?.fit || 1;
  const found = all.map((passage) => foundFrom(passage, ready.get(passage.cutting) as VersionOf, passage.fit / best));
  return { found, unready };
}

/**
 * Where a passage stands among all that a message finds, from 1; null where it does not find it.
 * @param passage its id
 */
export function rankOf(
  home: HasSources & HasPassages,
  content: Content,
  message: string,
  passage: string,
): number | null {
  return home.passages.rankOf([...cuttingsFor(home, content).ready.keys()], termsOf(message), Number(passage));
}

/** A document at a version. */
interface VersionOf {
  source: StoredSource;
  version: string;
}

/** The cuttings that a content's documents are looked for in, each with its document. */
export function cuttingsFor(
  { sources, passages }: HasSources & HasPassages,
  { sources: named }: Content,
): { ready: Map<number, VersionOf>; unready: string[] } {
  const ready = new Map<number, VersionOf>();
  const unready: string[] = [];
  if (!named) return { ready, unready };
  const { documents, size, overlap } = filledSources(named);
  for (const { source: id, version } of documents) {
    const source = sources.byId(id);
    // one that was deleted holds no answer any more
    if (!source) continue;
    const hash = version ?? source.hash;
    const cutting = passages.cutting({ hash, size, overlap });
    if (cutting?.isWhole) ready.set(cutting.id, { source, version: hash });
    else unready.push(id);
  }
  return { ready, unready };
}

function foundFrom(
  { id, text, place }: FittingPassage,
  { source, version }: VersionOf,
  likeness: number,
): FoundPassage {
  return {
    passage: String(id),
    source: source.id,
    version,
    title: source.title,
    short: source.short,
    text,
    where: place,
    likeness: Math.min(Math.max(likeness, 0), 1),
  };
}
