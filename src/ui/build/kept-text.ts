/** A text that is kept by the browser under a name until it is sent. */
export interface KeptText {
  name: string;
  text: string;
}

type Keep = Pick<Storage, "getItem" | "setItem" | "removeItem">;

/**
 * The text under another name.
 * @param goesAlong whether what was typed goes along: the conversation was begun with it
 */
export function textUnder(keep: Keep, name: string, before: KeptText, goesAlong: boolean): KeptText {
  if (!goesAlong || before.name === name) return { name, text: read(keep, name) };
  write(keep, { name: before.name, text: "" });
  return { name, text: before.text };
}

/** Keeps a text; an empty one takes no room. Where the browser keeps nothing, it lives as long as the page. */
export function write(keep: Keep, { name, text }: KeptText): void {
  try {
    if (text === "") keep.removeItem(name);
    else keep.setItem(name, text);
  } catch (error) {
    console.warn(`What is typed is not kept across a reload: ${error}`);
  }
}

function read(keep: Keep, name: string): string {
  try {
    return keep.getItem(name) ?? "";
  } catch {
    // a browser that keeps nothing has nothing
    return "";
  }
}
