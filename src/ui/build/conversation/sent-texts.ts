/** Messages that are kept to be recalled, and characters of one. */
const most = 30;
const longest = 4_000;

type Keep = Pick<Storage, "getItem" | "setItem">;

/** What was sent under a name, the last first. */
export function sentTexts(keep: Keep, name: string): string[] {
  try {
    const kept: unknown = JSON.parse(keep.getItem(name) ?? "[]");
    return Array.isArray(kept) ? kept.filter((text) => typeof text === "string").slice(0, most) : [];
  } catch {
    // what another program wrote there, or a browser that keeps nothing, recalls nothing
    return [];
  }
}

/** Keeps what was sent, once. */
export function keepSent(keep: Keep, name: string, text: string): void {
  if (text.length > longest) return;
  const others = sentTexts(keep, name).filter((each) => each !== text);
  try {
    keep.setItem(name, JSON.stringify([text, ...others].slice(0, most)));
  } catch (error) {
    console.warn(`What was sent is not kept to be recalled: ${error}`);
  }
}
