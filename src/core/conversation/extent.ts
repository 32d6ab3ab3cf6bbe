/** How long a text is. */
export interface Extent {
  characters: number;
  words: number;
  paragraphs: number;
}

const segmenter = new Intl.Segmenter("en", { granularity: "word" });

/** Characters (code points), words (of scripts without spaces, too) and paragraphs of a text. */
export function extentOf(text: string): Extent {
  let words = 0;
  for (const { isWordLike } of segmenter.segment(text)) if (isWordLike) words += 1;
  return {
    characters: [...text].length,
    words,
    paragraphs: text.split(/\n\s*\n/).filter((part) => part.trim() !== "").length,
  };
}
