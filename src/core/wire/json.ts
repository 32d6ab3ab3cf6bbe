/** A text read as JSON; undefined when it is none. */
export function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** The beginning of a text, in one line. */
export function excerpt(text: string): string {
  const line = text.slice(0, 1000).replace(/\s+/g, " ").trim();
  return line.length > 160 ? `${line.slice(0, 160)}…` : line;
}
