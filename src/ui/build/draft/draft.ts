import type { App } from "@/contract/apps";
import type { Content } from "@/core/revision/content";
import { sameContent } from "@/core/revision/content";
import { merge } from "@/core/revision/merge";

/** What is stored of an app's draft. */
export type StoredDraft = Pick<App, "draft" | "draftHash">;

/** What another place made of a part that was edited here, too. */
export interface Conflict extends StoredDraft {
  /** The parts that both changed, as they are called. */
  parts: readonly string[];
}

/** A draft as it is edited in this tab. */
export interface Draft {
  content: Content;
  /** The stored draft that the edits began with, and its hash. */
  base: Content;
  hash: string;
  /** Where the same part was changed in two places: nothing is stored until one of them is chosen. */
  conflict: Conflict | undefined;
}

/** A draft as it was read. */
export function readDraft({ draft, draftHash }: StoredDraft): Draft {
  return { content: draft, base: draft, hash: draftHash, conflict: undefined };
}

/** Whether something is edited that is not stored. */
export function isEdited({ content, base }: Draft): boolean {
  return content !== base && !sameContent(content, base);
}

/** A draft with other members. */
export function edited(draft: Draft, change: Partial<Content>): Draft {
  return { ...draft, content: { ...draft.content, ...change } };
}

/**
 * A draft after an edit of it was stored: what other places changed meanwhile comes along with what was edited here
 * since.
 * @param sent what was to be stored
 * @param stored what is, where the edits of all places are together
 */
export function afterStoring(draft: Draft, sent: Content, stored: StoredDraft): Draft {
  return onto(draft, sent, stored);
}

/** A draft after another place changed what is stored. */
export function afterHearing(draft: Draft, stored: StoredDraft): Draft {
  if (stored.draftHash === draft.hash) return draft;
  return onto(draft, draft.base, stored);
}

/** A draft of which the server said that another place changed the same part. */
export function afterConflict(draft: Draft, conflict: Conflict): Draft {
  return { ...draft, conflict };
}

/** A draft after one of two edits of the same part was chosen. */
export function chosen(draft: Draft, which: "mine" | "theirs"): Draft {
  const { conflict, base, content } = draft;
  if (!conflict) return draft;
  const merged = merge(base, conflict.draft, content, which === "mine" ? "edited" : "stored");
  if (merged.kind !== "merged") return draft;
  return { content: merged.content, base: conflict.draft, hash: conflict.draftHash, conflict: undefined };
}

/** The edits since a content, put onto what is stored; a conflict where both changed the same part. */
function onto(draft: Draft, since: Content, stored: StoredDraft): Draft {
  const merged = merge(since, stored.draft, draft.content);
  if (merged.kind === "conflict") return { ...draft, conflict: { ...stored, parts: merged.parts } };
  const content = sameContent(merged.content, draft.content) ? draft.content : merged.content;
  return { content, base: stored.draft, hash: stored.draftHash, conflict: undefined };
}
