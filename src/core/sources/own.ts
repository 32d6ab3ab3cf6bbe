import type { Content } from "../revision/content";
import type { Sources } from "./sources";

/** A document of a visitor's own, at the bytes that it has. */
export interface OwnDocument {
  id: string;
  /** SHA-256 of its bytes. */
  hash: string;
}

/**
 * A content that is answered from some documents beside those that it names: those of the visitor who asks. One that
 * names none answers from elsewhere, too, as it does without them.
 */
export function withOwn(content: Content, own: readonly OwnDocument[]): Content {
  if (own.length === 0) return content;
  const sources: Sources = content.sources ?? { documents: [], beyond: true };
  const documents = [...sources.documents, ...own.map(({ id, hash }) => ({ source: id, version: hash }))];
  return { ...content, sources: { ...sources, documents } };
}
