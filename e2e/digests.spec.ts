import { expectAccessibleInBoth } from "./axe";
import { buildOf, expect, noLimits, test } from "./fixtures";

const days = 480;
const log = `# Log of the Teal\n\n${Array.from(
  { length: days },
  (_, at) =>
    `## Day ${at + 1}\n\nOn day ${at + 1} the Teal left at ${6 + (at % 12)}:15 with ${20 + at} passengers. The weather was as it often is in these waters, and nothing else is worth the ink.\n`,
).join("\n")}`;

test("a document is sent whole, and a long one by a digest that says what it covers: read, used, sent again by passages", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Logbook", { model: "reed-deep" }, { limits: noLimits });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await station.getByLabel("Files to add as documents").setInputFiles([
    { name: "log.md", mimeType: "text/markdown", buffer: Buffer.from(log) },
    {
      name: "rules.md",
      mimeType: "text/markdown",
      buffer: Buffer.from("# Rules\n\nDogs travel free on the car deck.\n"),
    },
  ]);
  const row = station.getByRole("row").filter({ hasText: "[log …]" });
  await expect(row.getByRole("cell").nth(1)).not.toBeEmpty({ timeout: 30_000 });
  for (const title of ["Log", "Rules"]) {
    const how = station.getByRole("combobox", { name: `How ${title} is sent` });
    await how.press("ArrowDown");
    await how.press("ArrowDown");
    await how.press("Enter");
    await expect(station.getByText(new RegExp(`${title} goes along whole, [\\d,]+ tokens?`))).toBeVisible();
  }
  // a short one goes along as it is, before a word is typed; the long one does not without its digest
  await expect(station.getByText("Not looked for in Log")).toBeVisible();
  await expect(station.getByText("Rules, whole")).toBeVisible();
  await station.getByRole("button", { name: "Make a digest of Log" }).click();
  await expect(
    station.getByText(
      /Log goes along by its digest, [\d,]+ tokens instead of [\d,]+: all of it, in \d+ parts and 1 pass\./,
    ),
  ).toBeVisible({ timeout: 60_000 });
  await station.getByRole("button", { name: "Read the digest of Log" }).click();
  await expect(station.getByRole("region", { name: "Documents" })).toContainText("On day 1 the Teal left");
  await expectAccessibleInBoth(page, "a document by its digest");
  await expect(station.getByText("digest of Log")).toBeVisible();

  await build.message.fill("When did the Teal leave on day 1?");
  await build.message.press("Enter");
  await expect(build.reply(1, "complete")).toContainText("6:15");
  await build
    .reply(1, "complete")
    .getByRole("button", { name: /log \d/ })
    .first()
    .click({ timeout: 20_000 });
  await expect(page.getByRole("region", { name: /^Passage log \d$/ })).toContainText("Log");

  const how = station.getByRole("combobox", { name: "How Log is sent" });
  await how.press("ArrowDown");
  await how.press("ArrowUp");
  await how.press("Enter");
  await expect(station.getByText(/Log goes along/)).toHaveCount(0);
});
