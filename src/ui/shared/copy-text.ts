/**
 * Puts a text on the clipboard; gives whether the browser did. A page that came over plain http from another machine
 * has no clipboard of its own: there the text is copied as a selection is, as long as the browser still does that.
 */
export async function copyText(text: string): Promise<boolean> {
  try {
    if (!navigator.clipboard) return copiedAsSelection(text);
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    // a frame that may not, or a browser that asks and was told no
    return copiedAsSelection(text);
  }
}

function copiedAsSelection(text: string): boolean {
  const hadFocus = document.activeElement;
  const area = document.createElement("textarea");
  area.value = text;
  area.readOnly = true;
  area.style.position = "fixed";
  area.style.opacity = "0";
  document.body.append(area);
  area.select();
  try {
    return document.execCommand("copy");
  } catch {
    // it knows no such command
    return false;
  } finally {
    area.remove();
    if (hadFocus instanceof HTMLElement) hadFocus.focus();
  }
}
