import type { FoundPassage, PassagePlace } from "@/core/sources/found";
import type { DocumentKind } from "@/core/sources/kinds";

/** A passage by its document and its place: "Rules, Animals, page 47"; "digest of Rules" where that is all that goes along. */
export function wordsOfPassage({ title, where, whole }: Pick<FoundPassage, "title" | "where" | "whole">): string {
  if (whole) return whole === "digest" ? `digest of ${title}` : `${title}, whole`;
  return [title, wordsOfPlace(where)].filter(Boolean).join(", ");
}

/** Where a passage stands in its document: "Animals, page 47". */
export function wordsOfPlace({ headings, page, row }: PassagePlace): string {
  return [headings.at(-1), page && `page ${page}`, row && `row ${row}`].filter(Boolean).join(", ");
}

/** What a document is. */
export const kindWords: Record<DocumentKind, string> = {
  text: "text",
  markdown: "Markdown",
  html: "page",
  csv: "CSV",
  docx: "DOCX",
  pdf: "PDF",
};
