import type { PassagePlace } from "@/core/sources/found";
import type { DocumentKind } from "@/core/sources/kinds";

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
