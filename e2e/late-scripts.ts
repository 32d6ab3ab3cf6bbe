import type { Page } from "@playwright/test";

/** Keeps the scripts of a page back, as a slow connection does, until they are let come. */
export async function lateScripts(page: Page): Promise<{ come: () => void }> {
  let come = () => {};
  const coming = new Promise<void>((resolve) => {
    come = resolve;
  });
  await page.route("**/*.js", async (route) => {
    await coming;
    await route.continue();
  });
  return { come };
}
