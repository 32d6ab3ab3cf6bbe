import type { JSHandle, Locator, Page } from "@playwright/test";

/** A file that a test hands to a page. */
export interface Given {
  name: string;
  type: string;
  bytes: Uint8Array;
}

/** Pastes files, as if they had been copied before. */
export async function paste(field: Locator, ...files: Given[]): Promise<void> {
  await field.focus();
  await pasteData(field, await dataOf(field.page(), files));
}

/** Pastes what a page has made ready. */
export async function pasteData(field: Locator, data: JSHandle<DataTransfer>): Promise<void> {
  await field.evaluate(
    (element, clipboardData) =>
      element.dispatchEvent(new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true })),
    data,
  );
}

/** Drops files on an element. */
export async function drop(element: Locator, ...files: Given[]): Promise<void> {
  const dataTransfer = await dataOf(element.page(), files);
  await element.dispatchEvent("drop", { dataTransfer });
}

function dataOf(page: Page, files: readonly Given[]) {
  const given = files.map(({ name, type, bytes }) => ({ name, type, text: Buffer.from(bytes).toString("base64") }));
  return page.evaluateHandle((all) => {
    const data = new DataTransfer();
    for (const { name, type, text } of all)
      data.items.add(new File([Uint8Array.from(atob(text), (sign) => sign.charCodeAt(0))], name, { type }));
    return data;
  }, given);
}

/** Watches for tasks of a page that take longer than 50 ms; gives how long the longest took by then, in milliseconds. */
export async function watchTasks(page: Page): Promise<() => Promise<number>> {
  await page.evaluate(() => {
    const kept = window as unknown as { longest: number };
    kept.longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) kept.longest = Math.max(kept.longest, duration);
    }).observe({ type: "longtask", buffered: false });
  });
  return () => page.evaluate(() => (window as unknown as { longest: number }).longest);
}
