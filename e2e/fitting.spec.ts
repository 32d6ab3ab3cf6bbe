import { join } from "node:path";
import { buildOf, expect, test, World } from "./fixtures";
import { OddApi, oddKey } from "./odd-api/server";

/** Its answer as it was seen once, with a text of four pieces. */
const answer = [
  { n: 1, at: "2026-11-29T10:00:00Z", v: { lit: "From ", loud: "FROM " } },
  { n: 2, at: "2026-11-29T10:00:00Z", v: { lit: "Mill ", loud: "MILL " } },
  { n: 3, at: "2026-11-29T10:00:01Z", v: { lit: "Quay.", loud: "QUAY." } },
  { n: 4, at: "2026-11-29T10:00:01Z", v: { lit: "", loud: "" }, end: "moored", m: { r: 31, w: 4 } },
]
  .map((event) => `data: ${JSON.stringify(event)}\n\n`)
  .join("");

const body = {
  voice: "gull-2",
  brief: "Speak like a skipper.",
  said: [{ who: "caller", line: "Which quay does it leave from?" }],
  craft: [
    {
      label: "timetable",
      about: "Looks up a boat.",
      takes: { type: "object", properties: { to: { type: "string" } } },
    },
  ],
  bounds: { longest: 400 },
  badge: "guest-17",
};

test("an API that nobody described is wired by pasting, pointing at two parts and answering questions; it streams, and another region is another value", async ({
  page,
}) => {
  const api = await OddApi.start();
  const world = await World.make();
  try {
    await world.startStandIn();
    await world.startWeb({ FINCH_COMMANDS: "on", OYSTER_KEY: oddKey });
    await page.goto(`${world.address}/providers`);
    await page.getByRole("button", { name: "Wire the first" }).click();
    await page
      .getByRole("textbox", { name: "A command that works" })
      .fill(
        `curl "${api.address}/areas/$AREA/speak" -H "x-oyster-key: $OYSTER_KEY" -H "x-oyster-sign: $(sign request)" -H 'content-type: application/json' -d '${JSON.stringify(body)}'`,
      );
    await page.getByRole("textbox", { name: "Its answer" }).fill(answer);

    // two parts are pointed at: which text it is, and what counts what went in
    const shown = page.getByRole("region", { name: "The answer, as it is read" });
    await shown.getByRole("button", { name: '"From ": text, asked', exact: true }).click();
    await expect(page.getByRole("combobox", { name: "What $.v.lit is" })).toBeFocused();
    await page.locator(".ant-select-dropdown").getByTitle("text", { exact: true }).click();
    await expect(shown.getByRole("button", { name: '"From ": text, proven', exact: true })).toBeFocused();
    await shown.getByRole("button", { name: "31: taken for nothing" }).click();
    await page.getByTitle("usage in", { exact: true }).click();

    // what nobody can know is asked
    await page.getByRole("combobox", { name: /the model's name/ }).click();
    await page.getByTitle("gull-2", { exact: true }).click();
    await page.getByRole("combobox", { name: /ended with “moored”/ }).click();
    await page.getByTitle("complete", { exact: true }).click();
    const role = page.getByRole("combobox", { name: /What does this API call the app/ });
    await role.fill("desk");
    await role.press("Enter");
    await expect(page.getByRole("list", { name: "Taken for nothing" })).toContainText("$.badge");
    await page.getByRole("button", { name: "leave $.badge out" }).click();
    await expect(page.locator("p", { hasText: "Read as" })).toContainText("From Mill Quay. · 31 in");

    await page.getByRole("textbox", { name: "Name" }).fill("Oyster");
    await page.getByRole("textbox", { name: "Value area" }).fill("north");
    await page
      .getByRole("textbox", { name: "Command that signs each request" })
      .fill(`node ${join(process.cwd(), "e2e/odd-api/sign.mjs")}`);
    await page.getByRole("button", { name: "Wire it" }).click();
    await expect(page.getByRole("textbox", { name: "Address" })).toHaveValue(api.address);

    const { providers } = await world.bench<{ providers: { id: string; name: string }[] }>("GET", "providers");
    const oyster = providers.find(({ name }) => name === "Oyster");
    const slug = await world.makeApp("Odd", { provider: oyster?.id, model: "gull-2", prompt: "Be the desk." });
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say("Does it run?");
    await expect(build.reply(1, "complete")).toContainText("Here is north. You ask: Does it run?");
    await expect(build.reply(1, "complete")).toContainText("I was told: Be the desk.");
    await build.say("And back?");
    await expect(build.reply(2, "complete")).toContainText("desk said Here is north.");
    await build
      .reply(2, "complete")
      .getByRole("button", { name: /^Dispatch/ })
      .click();
    await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("bit by bit");

    // from trial to production: one value
    await world.bench("PATCH", `providers/${oyster?.id}`, { values: { area: "south" } });
    await build.say("And now?");
    await expect(build.reply(3, "complete")).toContainText("Here is south. You ask: And now?");

    // the case that it was fitted from is read anew at each edit of the profile
    await page.goto(`${world.address}/providers`);
    await page.getByRole("button", { name: "edit as JSON" }).click();
    const cases = page.getByRole("region", { name: "Cases" });
    await expect(cases).toContainText("From Mill Quay.");
    await page.getByRole("textbox", { name: "Wire profile as JSON" }).click();
    await page.keyboard.press("Control+Home");
    const { providers: after } = await world.bench<{ providers: { name: string; profile: object }[] }>(
      "GET",
      "providers",
    );
    const profile = JSON.stringify(after.find(({ name }) => name === "Oyster")?.profile);
    await page.keyboard.press("Control+a");
    await page.keyboard.insertText(profile.replaceAll("$.v.lit", "$.v.loud"));
    await expect(cases).toContainText("FROM MILL QUAY.");
  } finally {
    api.stop();
    await world.stop();
  }
});
