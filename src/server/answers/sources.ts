import {
  blocksAtOnce,
  type DocumentChanges,
  type DocumentText,
  type FaultAnswer,
  type FoundAnswer,
  type Source,
} from "@/contract/sources";
import type { AppMessage } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { textOfBlocks } from "@/core/sources/document";
import { filledSources } from "@/core/sources/sources";
import type { StoredApp } from "../apps/app-store";
import type { HasContents } from "../apps/content-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { refuse } from "../ground/refusal";
import type { HasDocuments } from "../sources/document-store";
import { type FindingNeeds, rankOf } from "../sources/finding";
import type { CuttingOf, HasPassages } from "../sources/passage-store";
import type { HasSources, StoredSource } from "../sources/source-store";
import { findFor } from "../sources/whole";

/** What of the process is used here. */
export type ToldSourceNeeds = HasSources & HasDocuments & HasPassages;

/** A document as the bench is told of it. @param draft by which it is cut */
export function sourceAnswer(home: ToldSourceNeeds, source: StoredSource, draft: Content): Source {
  const { app: _app, ...told } = source;
  const document = home.documents.find(source.hash);
  const cutting = home.passages.cutting(cuttingOf(draft, source.hash));
  const isRead = document?.readAt != null;
  return {
    ...told,
    parts: document?.parts ?? null,
    partsRead: home.documents.partsRead(source.hash),
    isRead,
    unread: document?.unread ?? [],
    passages: cutting?.isWhole ? cutting.passages : null,
    tokens: cutting?.isWhole ? cutting.tokens : null,
    problem: source.problem ?? document?.problem ?? null,
  };
}

/** What a question finds in the documents of the draft. */
export function foundAnswer(
  home: FindingNeeds & HasDocuments,
  { id, draft }: StoredApp,
  question: string,
): Promise<FoundAnswer> {
  return findFor(home, id, draft, question);
}

/**
 * Which of three faults it was that a reply does not answer from a place of a document: the passage there was never
 * found, was found and left out, or was carried and not used.
 * @param at a character of the document's text
 */
export async function faultAnswer(
  home: FindingNeeds & HasMessages & HasDispatches & HasContents,
  reply: AppMessage,
  source: StoredSource,
  at: number,
): Promise<FaultAnswer> {
  const content = reply.facts.content === undefined ? undefined : home.contents.find(reply.facts.content);
  const asked = reply.parent === null ? undefined : home.messages.message(reply.parent);
  if (!content || !asked) refuse("not-found", "It is not known any more what this reply was made from.");
  const named = content.sources?.documents.find((each) => each.source === source.id);
  if (!named) return { kind: "not-named" };
  const cutting = home.passages.cutting(cuttingOf(content, named.version ?? source.hash));
  const passage = cutting && home.passages.ofCutting(cutting.id).find(({ place }) => at >= place.from && at < place.to);
  if (!passage) refuse("not-found", `Nothing of ${source.title} stands there that could be found.`);
  const id = String(passage.id);
  // a document that goes along whole is one passage
  const sent = named.whole ? `whole ${source.id}` : id;
  const entry = home.dispatches
    .ofReply(reply.id)
    .at(-1)
    ?.ledger?.entries.find((each) => each.part === "passage" && each.passage === sent);
  const about = { passage: id, where: passage.place };
  if (entry?.part !== "passage")
    return { kind: "never-found", ...about, rank: await rankOf(home, source.app, content, textOf(asked), id) };
  const { rank, mark, carried, reason } = entry;
  if (!carried) return { kind: "left-out", ...about, rank, reason };
  const isCited = reply.facts.cites?.some((each) => each.passage === sent);
  return { kind: isCited ? "used" : "not-used", ...about, rank, mark };
}

/**
 * A stretch of a document as it was read, with the passages that it is cut into.
 * @param where the first block that is wanted, or a character of its text that is to stand in the stretch
 */
export function documentText(
  home: ToldSourceNeeds,
  source: StoredSource,
  draft: Content,
  { version = source.hash, first, around }: { version?: string; first?: number; around?: number },
): DocumentText {
  const document = home.documents.find(version);
  if (!document) refuse("not-found", `There is no such version of ${source.title}.`);
  const all = home.documents.blocks(version);
  const { starts } = textOfBlocks(all);
  const held = around === undefined ? 0 : starts.findLastIndex((start) => start <= around);
  const from = first ?? Math.max(held - Math.floor(blocksAtOnce / 4), 0);
  const blocks = all.slice(from, from + blocksAtOnce).map((block, at) => ({ block, at: starts[from + at] ?? 0 }));
  const [begin, end] = [blocks[0]?.at ?? 0, starts[from + blocksAtOnce] ?? Number.POSITIVE_INFINITY];
  const cutting = home.passages.cutting(cuttingOf(draft, version));
  const passages = cutting?.isWhole ? home.passages.ofCutting(cutting.id) : [];
  return {
    title: source.title,
    version,
    blocks,
    count: all.length,
    first: from,
    passages: passages.flatMap(({ id, number, place }) =>
      place.to > begin && place.from < end ? [{ passage: String(id), number, where: place }] : [],
    ),
  };
}

/** Blocks that are told of on each side, and characters of one. */
const mostTold = 40;
const longestTold = 400;

/** What the newest version of a document says otherwise than an earlier one. @throws {Refusal} `not-found` */
export function changesSince({ documents }: HasDocuments, source: StoredSource, from: string): DocumentChanges {
  const read = (hash: string) => (documents.find(hash)?.readAt == null ? undefined : documents.blocks(hash));
  const [before, after] = [read(from), read(source.hash)];
  if (!before || !after)
    refuse("not-found", `Not both versions of ${source.title} are read.`, { advice: "Wait until it is read." });
  const [old, now] = [before, after].map((blocks) => new Set(blocks.map(({ text }) => text))) as [
    Set<string>,
    Set<string>,
  ];
  const added = [...now].filter((text) => !old.has(text));
  const gone = [...old].filter((text) => !now.has(text));
  const told = (texts: string[]) => texts.slice(0, mostTold).map((text) => text.slice(0, longestTold));
  const more = Math.max(added.length - mostTold, 0) + Math.max(gone.length - mostTold, 0);
  return { added: told(added), gone: told(gone), same: now.size - added.length, more };
}

function cuttingOf({ sources }: Content, hash: string): CuttingOf {
  const { size, overlap } = filledSources(sources ?? { documents: [] });
  return { hash, size, overlap };
}
