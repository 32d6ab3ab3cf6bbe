import { mkdtempSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { pdfOf } from "../scripts/pdf";
import { expectAccessibleInBoth } from "./axe";
import { buildOf, expect, fillValue, test } from "./fixtures";

const rules = `# Rules

## Animals
Dogs travel free on the car deck, on the lead. On the 9:40 a muzzle is asked for.

## Bicycles
A bicycle costs €2.00 each way and needs a place.
`;

const handbook = pdfOf([
  ["# Skipper's handbook", "Ring the bell twice in fog."],
  ["# Heavy weather", "The mate may move a dog below in heavy weather,", "and tells its owner so."],
]);

/** Drops files onto the documents of the open station. */
async function drop(page: Page, files: { name: string; bytes: Buffer }[]): Promise<void> {
  const transfer = await page.evaluateHandle(
    (given) => {
      const all = new DataTransfer();
      for (const { name, text } of given) {
        const bytes = Uint8Array.from(atob(text), (sign) => sign.charCodeAt(0));
        all.items.add(new File([bytes], name));
      }
      return all;
    },
    files.map(({ name, bytes }) => ({ name, text: bytes.toString("base64") })),
  );
  await page.getByRole("region", { name: "Documents" }).dispatchEvent("drop", { dataTransfer: transfer });
}

const cell = (page: Page, name: string) => page.getByRole("row").filter({ hasText: name }).getByRole("cell");

test("from an app without documents to an answer whose citation is open, by drop and by address, in nine acts", async ({
  page,
  world,
}) => {
  const server = createServer((_, response) =>
    response.end(
      "<!doctype html><title>Harbour notes</title><main><h1>Crane</h1><p>The crane lifts two tons.</p></main>",
    ),
  );
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/notes`;
  try {
    const slug = await world.makeApp("Harbour Desk", { model: "reed-deep" });
    const build = buildOf(page, world);
    await build.open(slug);
    // 1: the station
    await build.station("Sources").click();
    const station = page.getByRole("region", { name: "Sources", exact: true });
    await expect(station).toContainText("Answers from no documents");
    // 2: two files at once
    await drop(page, [
      { name: "luggage-rules.md", bytes: Buffer.from(rules) },
      { name: "handbook.pdf", bytes: handbook },
    ]);
    await expect(station).toContainText("2 documents");
    await expect(cell(page, "Handbook").first()).toHaveText("PDF, 2 pages");
    // 3, 4, 5: an address, on this machine, is added
    await station.getByRole("button", { name: "name an address" }).click();
    await station.getByRole("textbox", { name: "Address of the document" }).fill(address);
    await station.getByRole("checkbox").check();
    await page.keyboard.press("Enter");
    await expect(station).toContainText("3 documents");
    await expect(cell(page, "Harbour notes").nth(1)).toHaveText("1");
    // 6: a question is typed: what it finds is shown before anything is sent
    await build.message.fill("May the mate move my dog in heavy weather?");
    const found = page.getByRole("region", { name: "What a question finds" });
    await expect(found.getByRole("listitem").first()).toContainText("The mate may move a dog below");
    await expect(found.getByRole("listitem").first()).toContainText("as [handbook 1]");
    await expect(build.station("Sources")).toContainText(/\d passages? · \d+ tokens/);
    // 7: it is sent
    await page.keyboard.press("Enter");
    const reply = build.reply(1, "complete");
    const mark = reply.getByRole("button", { name: "Passage handbook 1" });
    await expect(mark).toHaveText("[handbook 1]");
    // 8: its citation is opened
    await mark.click();
    const passage = reply.getByRole("region", { name: "Passage handbook 1" });
    await expect(passage).toContainText("Handbook, Heavy weather, page 2");
    await expect(passage.locator("mark")).toContainText("The mate may move a dog below");
    // 9: and the document, at the place
    await passage.getByRole("button", { name: "open at the place" }).click();
    const document = page.getByRole("region", { name: "Handbook", exact: true });
    await expect(document.locator("mark")).toContainText("The mate may move a dog below");
    await expect(document.locator("mark")).toBeInViewport();
    await page.keyboard.press("Escape");
    await expect(build.sheet).toBeVisible();
  } finally {
    server.close();
  }
});

test("the sentence of the station says how much is carried and what becomes of the rest, and keeps what is typed", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Sentence", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  await drop(page, [{ name: "rules.md", bytes: Buffer.from(rules) }]);
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await expect(cell(page, "[rules").nth(1)).toHaveText("2");
  const found = page.getByRole("region", { name: "What a question finds" });
  await fillValue(
    found.getByRole("textbox", { name: "Question to try" }),
    "What does a bicycle cost, and do dogs travel free?",
  );
  await expect(found.getByRole("listitem")).toHaveCount(2);
  await fillValue(station.getByRole("spinbutton", { name: "Passages at most" }), "1");
  await expect(found.getByRole("listitem").nth(1)).toContainText("left out: 1 better one is carried");
  await fillValue(station.getByRole("spinbutton", { name: "Tokens that all passages may have" }), "20");
  await expect(found.getByRole("listitem").first()).toContainText("more than passages may have");
  await fillValue(station.getByRole("spinbutton", { name: "Tokens that all passages may have" }), "700");
  // the ledger says it, too, of what is typed
  await build.message.fill("What does a bicycle cost?");
  await page.getByRole("button", { name: "ledger" }).click();
  await expect(page.getByRole("cell", { name: /^Passage 1, Rules, Bicycles \[rules 1\]/ })).toBeVisible();
  // which question is tried changes nothing of that
  await expect(found.getByRole("listitem")).toHaveCount(2);
  // for whom it is stays with it, when it follows from here on
  const whom = station.getByRole("textbox", { name: "For whom Rules is: labels" });
  await whom.fill("crew, no+label");
  await whom.press("Enter");
  await expect(station.getByText("no+label is no label: letters, figures, - and _ make one")).toBeVisible();
  await fillValue(whom, "crew office");
  await station.getByRole("button", { name: "Rules is fixed: let it follow" }).click();
  await expect(station.getByRole("button", { name: "Rules follows: fix it" })).toBeVisible();
  // it is cut otherwise, and all of that is kept
  await fillValue(station.getByRole("spinbutton", { name: "Tokens of a passage" }), "20");
  await expect(cell(page, "[rules").nth(1)).not.toHaveText("2");
  await page.reload();
  await build.station("Sources").click();
  await expect(station.getByRole("spinbutton", { name: "Passages at most" })).toHaveValue("1");
  await expect(station.getByRole("spinbutton", { name: "Tokens of a passage" })).toHaveValue("20");
  await expect(station.getByRole("textbox", { name: "For whom Rules is: labels" })).toHaveValue("crew, office");
});

test("a mark opens its row of a table, its page under its heading, and what a message was looked for by has its dispatch", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Places", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  await drop(page, [
    {
      name: "boats.csv",
      bytes: Buffer.from("Time,From,To,Bicycles\n8:10,Mill Quay,Brindle,4\n9:40,Mill Quay,Tansy Holm,8\n"),
    },
    {
      name: "fog.html",
      bytes: Buffer.from(
        "<!doctype html><title>Fog</title><main><h1>Weather</h1><h2>In fog</h2><p>The mate rings the bell twice in fog.</p></main>",
      ),
    },
  ]);
  await expect(cell(page, "[boats").nth(1)).not.toHaveText("–");
  await expect(cell(page, "[fog").nth(1)).toHaveText("1");
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await station.getByRole("combobox", { name: "What passages are looked for with" }).click();
  await page.getByText("the message made self-contained", { exact: true }).last().click();
  const opened = async (turn: number, mark: string, said: readonly string[]) => {
    const reply = build.reply(turn, "complete");
    await reply
      .getByRole("button", { name: `Passage ${mark}` })
      .first()
      .click();
    const passage = reply.getByRole("region", { name: `Passage ${mark}` });
    for (const text of said) await expect(passage).toContainText(text);
    await passage.getByRole("button", { name: "open at the place" }).click();
    const sheet = page.getByRole("region", { name: mark.startsWith("boats") ? "Boats" : "Fog", exact: true });
    await expect(sheet.locator("mark").first()).toBeInViewport();
    return sheet;
  };
  await build.say("How often does the mate ring the bell in fog?");
  const fog = await opened(1, "fog 1", ["In fog", "The mate rings the bell twice in fog."]);
  await expect(fog.getByRole("heading", { name: "In fog" })).toBeVisible();

  await page.keyboard.press("Escape");
  await build.say("And when does the boat to Tansy Holm leave?");
  const boats = await opened(2, "boats 2", ["9:40"]);
  await expect(boats).toContainText("Tansy Holm");
  await page.keyboard.press("Escape");

  const reply = build.reply(2, "complete");
  await expect(reply).toContainText("looked for:");
  await reply.getByRole("button", { name: "Dispatch of what was looked for" }).click();
  await expect(page.getByRole("region", { name: "Read as" })).toContainText("Tansy Holm");
});

test("a file that is no document says so, and nothing else is lost; a mark that was not carried is said to be one", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Wrong", {
    model: "reed-deep",
    prompt: 'End every answer with: "See [luggage 9]."',
  });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  await drop(page, [{ name: "boat.png", bytes: Buffer.from("\u0089PNG\r\n\u001a\n", "latin1") }]);
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await expect(station.getByRole("alert")).toContainText("boat.png is a picture (PNG), and can't be read.");
  await drop(page, [{ name: "luggage.md", bytes: Buffer.from(rules) }]);
  await expect(cell(page, "[luggage").nth(1)).toHaveText("2");
  await build.say("Do dogs travel free?");
  const reply = build.reply(1, "complete");
  await expect(reply.getByRole("button", { name: "Passage luggage 1" })).toBeVisible();
  await expect(reply).toContainText("cites what it did not have: luggage 9");
});

test("the pages below an address come along, are what the draft answers from, and those that can't be taken are named", async ({
  page,
  world,
}) => {
  const server = createServer(({ url }, response) => {
    if (url === "/gone") return response.writeHead(404).end();
    const links = url === "/" ? '<a href="/dogs">Dogs</a> <a href="/gone">Gone</a>' : "";
    return response.end(`<!doctype html><title>Page ${url}</title><main><p>Dogs travel free.</p>${links}</main>`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  try {
    const slug = await world.makeApp("Below", { model: "reed-deep" });
    await buildOf(page, world).open(slug);
    await buildOf(page, world).station("Sources").click();
    const station = page.getByRole("region", { name: "Sources", exact: true });
    await station.getByRole("button", { name: "name an address" }).click();
    await station.getByRole("checkbox", { name: "may be on this machine" }).check();
    await fillValue(station.getByRole("spinbutton", { name: "Links that pages below it may be away" }), "1");
    await station
      .getByRole("textbox", { name: "Address of the document" })
      .fill(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
    await page.keyboard.press("Enter");
    await expect(station.getByText(/^Not taken: http.*\/gone answers with 404\.$/)).toBeVisible();
    await expect(cell(page, "Page /dogs").nth(1)).toHaveText("1");
    await expect(station.getByRole("button", { name: "Page /dogs is fixed: let it follow" })).toBeVisible();
  } finally {
    server.close();
  }
});

test("a folder is watched from the station, and says which of its files could not be taken", async ({
  page,
  world,
}) => {
  const folder = mkdtempSync(join(tmpdir(), "finch-papers-"));
  writeFileSync(join(folder, "rules.md"), rules);
  writeFileSync(join(folder, "boat.png"), Buffer.from("\u0089PNG\r\n\u001a\n", "latin1"));
  const slug = await world.makeApp("Papers", { model: "reed-deep" });
  await buildOf(page, world).open(slug);
  await buildOf(page, world).station("Sources").click();
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await station.getByRole("button", { name: "a folder" }).click();
  await station.getByRole("textbox", { name: "Folder of documents" }).fill(folder);
  await page.keyboard.press("Enter");
  await expect(station.getByText("Not taken: boat.png is a picture (PNG).")).toBeVisible();
  await expect(station.getByRole("button", { name: "Rules follows: fix it" })).toBeVisible();
  await station.getByRole("button", { name: `Watch ${folder} no more` }).click();
  await expect(station.getByText(`Watches ${folder}`)).toHaveCount(0);
});

test("a reply that does not answer from where it should: each of three faults is told when one points at the place", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Faults", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  const fees =
    "# Fees\n\nA bicycle costs €2.00 each way.\n\n# Old fees\n\nA bicycle did cost €1.00 each way.\n\n# Fog\n\nRing the bell twice.\n\n# Club\n\nThe bicycle club meets in the old hall on Mondays.\n";
  await drop(page, [{ name: "fees.md", bytes: Buffer.from(fees) }]);
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await expect(cell(page, "[fees").nth(1)).toHaveText("4");
  const pointed = async (turn: number, words: string) => {
    const reply = build.reply(turn, "complete");
    await reply.getByRole("button", { name: "it should have answered from…" }).click();
    await reply.getByRole("button", { name: "Fees", exact: true }).click();
    const sheet = page.getByRole("region", { name: "Fees", exact: true });
    const block = sheet.locator("p").filter({ hasText: words });
    await block.getByRole("button", { name: "from here" }).click();
    await expect(block.getByRole("status")).not.toHaveText("");
    const told = await block.getByRole("status").innerText();
    await page.keyboard.press("Escape");
    await expect(build.sheet).toBeVisible();
    return told;
  };
  await build.say("What does a bicycle cost each way?");
  expect(await pointed(1, "Ring the bell")).toContain("Never found: the message has none of its words");
  expect(await pointed(1, "€2.00")).toContain("Nothing went wrong");
  expect(await pointed(1, "club meets")).toContain("Carried and not used");
  await fillValue(station.getByRole("spinbutton", { name: "Passages at most" }), "1");
  await build.say("What does a bicycle cost each way?");
  expect(await pointed(2, "€1.00")).toMatch(/Found and left out: number \d of what the message finds/);
});

test("what a reply cites opens on the visitors' page, and in History with its document", async ({ page, world }) => {
  const slug = await world.makeApp("Cited", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  await drop(page, [
    { name: "rules.md", bytes: Buffer.from(rules) },
    {
      name: "boats.csv",
      bytes: Buffer.from("Boat,Leaves,To\nCurlew,9:05,Brindle\nTeal,9:40,Tansy Holm\nPlover,13:00,Far Skerry\n"),
    },
  ]);
  await expect(cell(page, "[rules").nth(1)).toHaveText("2");
  await expect(cell(page, "[boats").nth(1)).toHaveText("3");
  await build.say("Do dogs travel free?");
  await expect(build.reply(1, "complete")).toContainText("[rules 1]");
  const { draft } = await world.bench<{ draft: object }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: draft });

  await page.goto(`${world.address}/talk/${slug}`);
  await page.getByRole("textbox").fill("When does Plover leave for Far Skerry?");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Passage boats 1" }).click();
  const passage = page.getByRole("complementary", { name: "Passage boats 1" });
  await expect(passage).toContainText("Boats, row 3");
  await expect(passage.locator("mark")).toContainText("Boat: Plover; Leaves: 13:00");
  await page.reload();
  await page.getByRole("button", { name: "Passage boats 1" }).click();
  await passage.getByRole("button", { name: "Close" }).click();
  await expect(passage).toHaveCount(0);

  await page.goto(`${world.address}/apps/${slug}/history`);
  await page.getByRole("listitem").filter({ hasText: "Do dogs travel free?" }).getByRole("button").first().click();
  const reading = page.getByRole("region", { name: "The conversation" });
  await reading.getByRole("button", { name: "Passage rules 1" }).click();
  await reading.getByRole("button", { name: "open at the place" }).click();
  await expect(page.getByRole("region", { name: "Rules", exact: true }).locator("mark")).toContainText(
    "Dogs travel free",
  );
});

test("the open station is accessible, light and dark, and fits at 1024 pixels", async ({ page, world }) => {
  const slug = await world.makeApp("Reach", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Sources").click();
  await drop(page, [
    { name: "rules.md", bytes: Buffer.from(rules) },
    { name: "handbook.pdf", bytes: handbook },
  ]);
  await expect(cell(page, "Handbook").nth(1)).not.toHaveText("");
  await build.say("Do dogs travel free?");
  await build
    .reply(1, "complete")
    .getByRole("button", { name: /^Passage/ })
    .first()
    .click();
  await expectAccessibleInBoth(page, "Sources");
  await page.setViewportSize({ width: 1024, height: 700 });
  const overflows = await page.evaluate(
    () => document.documentElement.scrollWidth > document.documentElement.clientWidth,
  );
  expect(overflows).toBe(false);
});

test("documents are looked through by meaning, too: chosen in the sentence by key, with what it costs, and without once it fails", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("By meaning", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await page.keyboard.press("Alt+4");
  const station = page.getByRole("region", { name: "Sources", exact: true });
  await drop(page, [{ name: "luggage-rules.md", bytes: Buffer.from(rules) }]);
  await expect(station).toContainText("1 document");
  await build.message.fill("How expensive are bikes?");
  const found = page.getByRole("region", { name: "What a question finds" });
  await expect(found).toContainText("Nothing is found");
  const choice = station.getByRole("combobox", { name: "Whether passages are found by meaning, too" });
  await choice
    .or(station.getByRole("button", { name: "Whether passages are found by meaning, too" }))
    .first()
    .focus();
  await page.keyboard.press("Enter");
  await page.getByRole("option", { name: /reed-embed on Reedbed/ }).click();
  await expect(station).toContainText("the words and the meaning (reed-embed on Reedbed)");
  await expect(station).toContainText("vectors of all 2 passages are made, and kept");
  await expect(found.getByRole("listitem").first()).toContainText("A bicycle costs €2.00");
  await expectAccessibleInBoth(page, "Sources by meaning");
  await world.fault({ fault: "status", status: 500 }, "Reedbed");
  await build.message.fill("What may dogs do?");
  await expect(found).toContainText("By words alone:");
  await expect(found.getByRole("listitem").first()).toContainText("Dogs travel free");
});
