import type { Block } from "../document";

/** A plain text as blocks: paragraphs are parted by blank lines, and pages by form feeds, where there are any. */
export function blocksOfText(text: string): Block[] {
  const pages = text
    .replace(/^\uFEFF/, "")
    .replace(/\r\n?/g, "\n")
    .split("\f");
  return pages.flatMap((page, at) =>
    page.split(/\n[^\S\n]*\n\s*/).flatMap((paragraph): Block[] => {
      const said = paragraph.trim();
      if (said === "") return [];
      return [{ kind: "paragraph", text: said, ...(pages.length > 1 ? { page: at + 1 } : {}) }];
    }),
  );
}
