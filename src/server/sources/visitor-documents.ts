import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import type { Access } from "@/core/serving/access";
import { documentRefused } from "@/core/serving/sent";
import { type FoundPassage, usualBar } from "@/core/sources/found";
import { shortNameFor } from "@/core/sources/marks";
import type { Origin } from "@/core/sources/origin";
import { withOwn } from "@/core/sources/own";
import { isRefusal, Refusal } from "../ground/refusal";
import type { HasDocuments, StoredDocument } from "./document-store";
import type { HasSources } from "./source-store";
import { kept, keptAt, titleOf } from "./sources";
import type { HasVisitorDocuments, VisitorDocument } from "./visitor-document-store";

/** What of the process is used here. */
export type VisitorDocumentsNeeds = HasVisitorDocuments & HasDocuments & HasSources;

/** Who hands in a document: a visitor of an app, or somebody who is made one with it. */
export interface Handing {
  app: { id: string; access: Access };
  from: "page" | "calls";
  /** The visitor, if it is one already, and how to make one of whoever calls. */
  visitor: string | undefined;
  begin: () => string;
}

/** Takes a file as a document of a visitor's own; one of the same name is the newer one of that. @throws {Refusal} */
export function handInFile(
  home: VisitorDocumentsNeeds,
  by: Handing,
  name: string,
  bytes: Uint8Array,
  now: number,
): VisitorDocument {
  const { largest } = by.app.access.documents;
  const document = kept(home.documents, "The document", bytes, largest);
  return added(home, by, titleOf(name), { kind: "file", name }, document, now);
}

/** Takes what stands at an address as a document of a visitor's own. @throws {Refusal} where it can't be had */
export async function handInAddress(home: VisitorDocumentsNeeds, by: Handing, url: string): Promise<VisitorDocument> {
  const { addresses, largest } = by.app.access.documents;
  const allowsThisMachine = addresses === "any" || undefined;
  const { title, document } = await keptAt(home, { url, allowsThisMachine }, largest).catch((error) => {
    // a refusal is noted for the developer, and stays where the visitor is forgotten
    if (!isRefusal(error)) throw error;
    throw new Refusal({ ...error.problem, detail: error.problem.detail.replaceAll(url, "The address") });
  });
  return added(home, by, title, { kind: "address", url }, document, Date.now());
}

/** Looks whether another document may be handed in. @throws {Refusal} where it may not */
export function checkHanding(
  { visitorDocuments }: HasVisitorDocuments,
  { app, from, visitor }: Handing,
  origin: Pick<Origin, "kind"> & { name?: string; url?: string },
): void {
  const all = visitor === undefined ? [] : visitorDocuments.ofVisitor(visitor);
  const count = all.filter((each) => !isSame(each.origin, origin)).length;
  const refused = documentRefused(app.access, from, origin.kind === "address" ? "address" : "file", count);
  if (refused) throw new Refusal(refused);
}

/** The content that a visitor is answered from: with the documents that are that visitor's own, where the app takes some. */
export function withOwnOf(
  { visitorDocuments }: HasVisitorDocuments,
  { documents }: Access,
  content: Content,
  visitor: string | null,
): Content {
  if (visitor === null || documents.from.length === 0) return content;
  return withOwn(content, visitorDocuments.ofVisitor(visitor));
}

/**
 * What was found for a visitor, once it is noted in which conversation something of the visitor's own documents was: it
 * is forgotten with them. What has too little to do with the question leaves no trace.
 */
export function noted(
  { visitorDocuments }: HasVisitorDocuments,
  visitor: string | null,
  conversation: string,
  found: readonly FoundPassage[],
): FoundPassage[] {
  if (visitor === null) return [...found];
  const own = new Set(visitorDocuments.ofVisitor(visitor).map(({ id }) => id));
  const kept = found.filter(({ source, likeness }) => !own.has(source) || likeness >= usualBar);
  for (const id of new Set(kept.map(({ source }) => source))) if (own.has(id)) visitorDocuments.found(id, conversation);
  return kept;
}

/** How a visitor's document stands. */
export type OwnStanding = { state: "reading" | "ready" } | { state: "failed"; problem: Problem };

/** Whether a document is read and cut as a content has it cut. */
export function standingOf(
  { documents }: HasDocuments,
  { hash }: VisitorDocument,
  isCut: (hash: string) => boolean,
): OwnStanding {
  const document = documents.find(hash);
  if (document?.problem) return { state: "failed", problem: document.problem };
  return { state: document?.readAt != null && isCut(hash) ? "ready" : "reading" };
}

function added(
  home: VisitorDocumentsNeeds,
  by: Handing,
  title: string,
  origin: Origin,
  { hash }: StoredDocument,
  now: number,
): VisitorDocument {
  const { visitorDocuments, sources } = home;
  // another one may have come while this one did
  checkHanding(home, by, origin);
  const visitor = by.visitor ?? by.begin();
  const own = visitorDocuments.ofVisitor(visitor);
  const same = own.find((each) => isSame(each.origin, origin));
  if (same) {
    visitorDocuments.change(same.id, hash, now);
    return visitorDocuments.byId(same.id) as VisitorDocument;
  }
  const taken = new Set([...sources.ofApp(by.app.id), ...own].map(({ short }) => short));
  const short = shortNameFor(title, taken);
  return visitorDocuments.add({ visitor, title, short, origin, hash, usedAt: now });
}

/** Whether two documents came from the same place. */
function isSame(one: Origin, other: { kind: string; name?: string; url?: string }): boolean {
  if (one.kind === "file") return other.kind === "file" && other.name === one.name;
  return one.kind === "address" && other.kind === "address" && other.url === one.url;
}
