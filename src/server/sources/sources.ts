import { problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { kindOf, looksAt } from "@/core/sources/kinds";
import { shortNameFor } from "@/core/sources/marks";
import { largestDocument, type Origin } from "@/core/sources/origin";
import { mostDocuments } from "@/core/sources/sources";
import { type GuardedAnswer, guardedCall } from "../exchange/guarded";
import { newId } from "../ground/id";
import { Refusal, refuse } from "../ground/refusal";
import type { DocumentStore, HasDocuments, StoredDocument } from "./document-store";
import type { HasSources, StoredSource } from "./source-store";

/** Milliseconds that the bytes of an address may take. */
const longestCall = 30_000;

/** Adds a file as a document of an app. @throws {Refusal} where it is no document that can be read */
export function addFile(home: HasSources & HasDocuments, app: string, name: string, bytes: Uint8Array): StoredSource {
  const document = kept(home.documents, name, bytes);
  return addDocument(home, app, name, { kind: "file", name }, document);
}

/** An address, and whether it may be one of this machine. */
export interface Address {
  url: string;
  allowsThisMachine?: boolean;
}

/**
 * Adds what stands at an address as a document of an app.
 * @param isWanted whether it is wanted from where it was redirected to: it is refused from elsewhere
 * @throws {Refusal} where it can't be had, or is no document that can be read
 */
export async function addAddress(
  home: HasSources & HasDocuments,
  app: string,
  { url, allowsThisMachine }: Address,
  { isWanted = () => true, signal }: { isWanted?: (url: string) => boolean; signal?: AbortSignal } = {},
): Promise<StoredSource> {
  const origin: Origin = { kind: "address", url, ...(allowsThisMachine ? { allowsThisMachine } : {}) };
  const answer = await fetched(origin, signal);
  if (!isWanted(answer.url)) refuse("bad-request", `${url} leads to ${answer.url}, which is elsewhere.`);
  const document = kept(home.documents, url, answer.bytes);
  return addDocument(home, app, titleAt(answer), origin, document);
}

/** Keeps what stands at an address, and gives it a title. @throws {Refusal} where it can't be had, or is no document that can be read */
export async function keptAt(
  { documents }: HasDocuments,
  address: Address,
  largest: number,
): Promise<{ title: string; document: StoredDocument }> {
  const answer = await fetched(address, undefined, largest);
  return { title: titleAt(answer), document: kept(documents, address.url, answer.bytes, largest) };
}

/** Looks whether a document has changed: its new bytes are those that are read from now on. @throws {Refusal} where it can't be had */
export async function lookAgain(home: HasSources & HasDocuments, source: StoredSource): Promise<StoredSource> {
  const { id, origin } = source;
  if (origin.kind !== "address")
    refuse("bad-request", `${source.title} is a file, and stands at no address.`, {
      advice: "Hand in the newer one under the same name, or put it into the folder.",
    });
  try {
    const { bytes } = await fetched(origin);
    home.sources.had(id, kept(home.documents, source.title, bytes).hash, Date.now());
  } catch (error) {
    if (error instanceof Refusal) home.sources.failed(id, error.problem, Date.now());
    throw error;
  }
  return sourceAt(home, id);
}

/** A document by its id. @throws {Refusal} `not-found` */
export function sourceAt({ sources }: HasSources, id: string): StoredSource {
  return sources.byId(id) ?? refuse("not-found", `There is no document ${id}.`);
}

/** Gives a document another title, or another short name. @throws {Refusal} `conflict` where another one has that */
export function renameSource(
  { sources }: HasSources,
  source: StoredSource,
  { title = source.title, short = source.short }: { title?: string; short?: string },
): StoredSource {
  const other = sources.ofApp(source.app).find((each) => each.short === short && each.id !== source.id);
  if (other) refuse("conflict", `${other.title} is called ${short} in marks already.`, { advice: "Choose another." });
  sources.rename(source.id, { title, short });
  return sourceAt({ sources }, source.id);
}

/** A content that answers from copies of documents, and the ids of the copies by those of the first. */
export function withCopies(content: Content): { content: Content; copies: Map<string, string> } {
  const copies = new Map(content.sources?.documents.map(({ source }) => [source, newId("src")]));
  return { content: withDocuments(content, copies), copies };
}

/** A content that answers from other documents instead. @param others their ids by those that it names */
export function withDocuments(content: Content, others: ReadonlyMap<string, string>): Content {
  const { sources } = content;
  if (!sources) return content;
  const documents = sources.documents.map((each) => ({ ...each, source: others.get(each.source) ?? each.source }));
  return { ...content, sources: { ...sources, documents } };
}

/** Gives an app copies of documents, under their ids. */
export function addCopies({ sources }: HasSources, app: string, copies: ReadonlyMap<string, string>): void {
  for (const [first, id] of copies) {
    const source = sources.byId(first);
    if (source) sources.add({ ...source, app, id }, Date.now());
  }
}

/**
 * Adds a document to an app; where one of the same origin is there, it is a newer version of that.
 * @param name of its file, or its title
 */
export function addDocument(
  { sources }: HasSources,
  app: string,
  name: string,
  origin: Origin,
  { hash }: StoredDocument,
): StoredSource {
  const all = sources.ofApp(app);
  const same = all.find((each) => JSON.stringify(each.origin) === JSON.stringify(origin));
  if (same) {
    sources.had(same.id, hash, Date.now());
    return sourceAt({ sources }, same.id);
  }
  if (all.length >= mostDocuments)
    refuse("bad-request", `An app has up to ${mostDocuments} documents.`, { advice: "Delete some first." });
  const title = origin.kind === "address" ? name : titleOf(name);
  const short = shortNameFor(title, new Set(all.map((each) => each.short)));
  return sources.add({ app, title, short, origin, hash }, Date.now());
}

/** Keeps bytes that are a document. @throws {Refusal} where they are none */
export function kept(
  documents: DocumentStore,
  name: string,
  bytes: Uint8Array,
  largest = largestDocument,
): StoredDocument {
  if (bytes.length > largest)
    refuse("too-large", `${name} has ${bytes.length} bytes, and a document up to ${largest}.`);
  const kind = kindOf(bytes.subarray(0, looksAt));
  if (kind.kind === "unreadable")
    refuse("bad-request", `${name} is ${kind.is}, and can't be read.`, {
      advice: "Take text, Markdown, a page, a table as CSV, a DOCX or a PDF.",
    });
  return documents.keep(bytes, kind.kind, Date.now());
}

/** The bytes at an address. @throws {Refusal} where they can't be had */
async function fetched(
  { url, allowsThisMachine }: Address,
  signal?: AbortSignal,
  mostBytes = largestDocument,
): Promise<GuardedAnswer> {
  const answer = await guardedCall({
    url,
    // unpacked it could be any size
    headers: { "accept-encoding": "identity", "user-agent": "unruly-finch" },
    allowsThisMachine,
    limit: longestCall,
    mostBytes,
    signal,
  });
  if ("problem" in answer) throw new Refusal(answer.problem);
  const { status, headers } = answer;
  if (status !== 200)
    throw new Refusal(
      problem("unreachable", `${url} answers with ${status}.`, { advice: "Look at the address in a browser." }),
    );
  const encoding = headers["content-encoding"];
  if (encoding && encoding !== "identity")
    throw new Refusal(problem("bad-reply", `${url} answers packed (${encoding}), though it was asked not to.`));
  return answer;
}

/** A file's name without its ending, as words. */
export function titleOf(name: string): string {
  const plain = name.replace(/^.*[\\/]/, "").replace(/\.[A-Za-z0-9]{1,8}$/, "");
  const words = plain.replace(/[_-]+/g, " ").trim().slice(0, 120);
  return words === "" ? "Document" : words[0]?.toUpperCase() + words.slice(1);
}

/** What a page calls itself, or the end of its address. */
function titleAt({ url, bytes }: GuardedAnswer): string {
  const named = /<title[^>]*>([^<]{1,300})<\/title>/i.exec(bytes.subarray(0, 20_000).toString("utf8"))?.[1];
  const title = named?.replace(/\s+/g, " ").trim();
  const { pathname, host } = new URL(url);
  return title ? title.slice(0, 120) : titleOf(decoded(pathname.split("/").findLast(Boolean) ?? host));
}

/** A part of an address as it reads; as it stands where it is not percent-encoded UTF-8 (RFC 3986, 2.1). */
function decoded(part: string): string {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}
