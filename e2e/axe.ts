import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";

/** Holds that axe finds nothing on a page as it stands, of whatever impact. @param leaveOut what is another's, by its selector */
export async function expectAccessible(page: Page, what: string, leaveOut?: string): Promise<void> {
  // all rules on this page; the tool would else gather what passed too, and open another page for each look
  const axe = new AxeBuilder({ page }).options({ resultTypes: ["violations"] }).setLegacyMode(true);
  const { violations } = await (leaveOut === undefined ? axe : axe.exclude(leaveOut)).analyze();
  const found = violations.map(({ id, impact, nodes }) => [id, impact, nodes.map(({ html }) => html)]);
  expect([what, found]).toEqual([what, []]);
}

/** Holds that of a page of the bench: light at 1280 pixels, then dark at 1024. It is light again after that. */
export async function expectAccessibleInBoth(page: Page, what: string, leaveOut?: string): Promise<void> {
  const theme = page.getByRole("button", { name: /^Theme:/ });
  await page.setViewportSize({ width: 1280, height: 800 });
  await expectAccessible(page, `${what}, light`, leaveOut);
  await theme.click();
  await page.setViewportSize({ width: 1024, height: 800 });
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
  await expectAccessible(page, `${what}, dark`, leaveOut);
  await theme.click();
  await expect(page.locator("html")).toHaveAttribute("data-theme", "light");
}
