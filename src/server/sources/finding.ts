import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { type FoundPassage, usualBar } from "@/core/sources/found";
import { mergedRanks } from "@/core/sources/meaning";
import { termsOf } from "@/core/sources/query";
import { filledSources } from "@/core/sources/sources";
import { masksOf } from "../making/guarding";
import { type MeaningNeeds, type NearPassages, nearPassages } from "./by-meaning";
import type { HasPassages, StoredPassage } from "./passage-store";
import type { HasSources, NamedDocument } from "./source-store";

/** What a message finds in the documents of a content, and the documents that it could not be looked for in yet. */
export interface Findings {
  /** The best first. */
  found: FoundPassage[];
  /** Ids of documents that are not read, or not cut, yet. */
  unready: string[];
  /** Why it was looked for by words alone, where it was to be by meaning, too. */
  wordsAlone?: Problem;
  /** Passages that could not be found by meaning, since their vectors are not made yet. */
  unmade?: number;
}

/** What of the process is used here. */
export type FindingNeeds = HasSources & HasPassages & MeaningNeeds;

/** Finds passages for a message in the documents of a content, by their words alone. */
export function findByWords(home: HasSources & HasPassages, content: Content, message: string): Findings {
  const { ready, unready } = cuttingsFor(home, content);
  const all = home.passages.find([...ready.keys()], termsOf(message));
  const best = all[0]?.fit || 1;
  const found = all.map((passage) => foundFrom(passage, ready.get(passage.cutting) as VersionOf, passage.fit / best));
  return { found, unready };
}

/** Finds passages for a message in the documents of a content: by their words, and by meaning where it says so. */
export async function findPassages(
  home: FindingNeeds,
  app: string,
  content: Content,
  message: string,
  signal?: AbortSignal,
): Promise<Findings> {
  const byWords = findByWords(home, content, message);
  const near = await nearIn(home, app, content, message, signal);
  if (near === undefined) return byWords;
  if (near.kind === "problem") return { ...byWords, wordsAlone: near.problem };
  const fitting = byWords.found.filter(({ likeness }) => likeness >= usualBar);
  const merged = mergedRanks(
    fitting.map(({ passage }) => Number(passage)),
    near.near,
  );
  return nearFindings(home, content, { ...near, near: merged });
}

/** Finds passages for a message by meaning alone, the nearest first. */
export async function findByMeaning(
  home: FindingNeeds,
  app: string,
  content: Content,
  message: string,
): Promise<Findings> {
  const near = await nearIn(home, app, content, message);
  if (near?.kind !== "near") return { found: [], unready: [], wordsAlone: near?.problem };
  return nearFindings(home, content, near);
}

/** What is near a message in the documents of a content; undefined where it is not looked for by meaning. */
async function nearIn(
  home: FindingNeeds,
  app: string,
  content: Content,
  message: string,
  signal?: AbortSignal,
): Promise<NearPassages | undefined> {
  const { meaning } = content.sources ?? {};
  const cuttings = [...cuttingsFor(home, content).ready.keys()];
  if (!meaning || cuttings.length === 0 || message.trim() === "") return undefined;
  // what is masked for a model that answers is masked for one that makes vectors
  const asked = masksOf(content.guards ?? [], [content.prompt])?.text(message) ?? message;
  return nearPassages(home, app, meaning, cuttings, asked, signal);
}

function nearFindings(
  home: FindingNeeds,
  content: Content,
  { near, looked }: Extract<NearPassages, { kind: "near" }>,
): Findings {
  const { ready, unready } = cuttingsFor(home, content);
  const found = near.flatMap(({ id, likeness }) => {
    const passage = home.passages.byId(id);
    const version = passage && ready.get(passage.cutting);
    // one whose document was read anew meanwhile is not there any more
    return version ? [foundFrom(passage, version, likeness)] : [];
  });
  const unmade = home.passages.count([...ready.keys()]) - looked;
  return { found, unready, ...(unmade > 0 ? { unmade } : {}) };
}

/**
 * Where a passage stands among all that a message finds, from 1; null where it does not find it.
 * @param passage its id
 */
export async function rankOf(
  home: FindingNeeds,
  app: string,
  content: Content,
  message: string,
  passage: string,
): Promise<number | null> {
  if (content.sources?.meaning) {
    const { found } = await findPassages(home, app, content, message);
    const at = found.findIndex((each) => each.passage === passage);
    if (at >= 0) return at + 1;
  }
  return home.passages.rankOf([...cuttingsFor(home, content).ready.keys()], termsOf(message), Number(passage));
}

/** A document at a version. */
interface VersionOf {
  source: NamedDocument;
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
  for (const { source: id, version, whole } of documents) {
    // it is not looked through
    if (whole) continue;
    const source = sources.named(id);
    // one that was deleted holds no answer any more
    if (!source) continue;
    const hash = version ?? source.hash;
    const cutting = passages.cutting({ hash, size, overlap });
    if (cutting?.isWhole) ready.set(cutting.id, { source, version: hash });
    else unready.push(id);
  }
  return { ready, unready };
}

function foundFrom({ id, text, place }: StoredPassage, { source, version }: VersionOf, likeness: number): FoundPassage {
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
