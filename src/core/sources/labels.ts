import type { Content } from "../revision/content";

/**
 * A content with those documents alone that a caller may be answered from: all that have no label, and those that have
 * one of the caller's.
 * @param labels of the caller; undefined for the developer, who is answered from all
 */
export function forLabels(content: Content, labels: readonly string[] | undefined): Content {
  const { sources } = content;
  if (!labels || !sources) return content;
  const documents = sources.documents.filter(
    (document) => !document.labels?.length || document.labels.some((label) => labels.includes(label)),
  );
  return documents.length === sources.documents.length ? content : { ...content, sources: { ...sources, documents } };
}
