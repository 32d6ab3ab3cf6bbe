/** A part of a text: from a character on, up to another, counted as JavaScript does (UTF-16 units). */
export interface Stretch {
  from: number;
  to: number;
}

/** Finds something in a text that it reads once, character by character, so that it matters nowhere how the text was cut. */
export interface Matcher {
  /** Reads a character that stands at a place. @returns what is found now, which may reach over what was found before */
  feed(code: number, at: number): readonly Stretch[];
  /** Hears that the text ends here. @returns what is found because of that */
  close(at: number): readonly Stretch[];
  /** Whether a text that is there as a whole can hold something at all; it may be said where that is not known. */
  mayFind?(text: string): boolean;
  /** The first character that may yet turn out to be part of something; undefined where there is none. */
  readonly open: number | undefined;
}

export const nothingFound: readonly Stretch[] = [];
