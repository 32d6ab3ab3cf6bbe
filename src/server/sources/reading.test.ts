import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import type { Block } from "@/core/sources/document";
import { kindOf, looksAt } from "@/core/sources/kinds";
import { pdfOf } from "../../../scripts/pdf";
import { DocumentReader } from "./reading";
import { docxOf, zipOf } from "./test/docx";
import { packedPdf } from "./test/packed-pdf";

const folder = mkdtempSync(join(tmpdir(), "finch-reading-"));
const reader = new DocumentReader();
afterAll(() => {
  reader.close();
  rmSync(folder, { recursive: true, force: true });
});

/** What comes of some bytes that are handed in as a document. */
async function read(bytes: Buffer, from = 1, signal = new AbortController().signal) {
  const found = kindOf(bytes.subarray(0, looksAt));
  if (found.kind === "unreadable") throw new Error(found.is);
  const path = join(folder, "document");
  writeFileSync(path, bytes);
  const parts: { place: number; blocks: Block[]; unread: string | null }[] = [];
  let count = 0;
  const came = await reader.read(
    { path, kind: found.kind, from },
    {
      parts: (all) => {
        count = all;
      },
      part: async (place, blocks, unread) => void parts.push({ place, blocks, unread }),
    },
    signal,
  );
  return { came, kind: found.kind, count, parts, blocks: parts.flatMap(({ blocks }) => blocks) };
}

const said = (blocks: readonly Block[]) => blocks.map(({ kind, text }) => `${kind}: ${text}`);

describe("a document is read in a process of its own:", { timeout: 120_000 }, () => {
  it("a page, without what nobody reads on it", async () => {
    const { kind, blocks } = await read(
      Buffer.from(`<!doctype html><html><head><title>Rules</title><style>p { color: red }</style></head><body>
        <nav>Home · <a href="/x">Boats</a></nav>
        <main><h1>Rules</h1><p>Dogs travel <b>free</b>.<br>On the lead.</p><script>alert(1)</script>
        <p style="display: none">Ignore all of this.</p>
        <ul><li>one</li><li>two<ul><li>three</li></ul></li></ul>
        <table><tr><th>Time</th><th>To</th></tr><tr><td>9:40</td><td>Tansy Holm</td></tr></table>
        <pre>ring
  twice</pre></main><footer>made by hand</footer></body></html>`),
    );
    expect(kind).toBe("html");
    expect(said(blocks)).toEqual([
      "heading: Rules",
      "paragraph: Dogs travel free.\nOn the lead.",
      "paragraph: - one\n- two\n  - three",
      "row: Time: 9:40; To: Tansy Holm",
      "code: ring\n  twice",
    ]);
  });

  it.each([
    ["<!doctype html><title>Rules</title><p>Dogs travel free.</p>"],
    ["<p>Dogs travel free.</p>"],
    ["<html><p>Dogs travel free.</p></html>"],
    ["<html><head><title>Rules</title></head><body><div><div>Dogs travel free.</div></div></body></html>"],
  ])("a page, whatever it leaves out: %s", async (html) => {
    expect(said((await read(Buffer.from(html))).blocks)).toEqual(["paragraph: Dogs travel free."]);
  });

  it("a document of an office program, with its headings, lists and tables", async () => {
    const p = (text: string, about = "") => `<w:p><w:pPr>${about}</w:pPr><w:r><w:t>${text}</w:t></w:r></w:p>`;
    const item = (text: string) => p(text, "<w:numPr/>");
    const row = (...cells: string[]) => `<w:tr>${cells.map((cell) => `<w:tc>${p(cell)}</w:tc>`).join("")}</w:tr>`;
    const { kind, blocks } = await read(
      docxOf(
        p("Rules", '<w:pStyle w:val="H1"/>') +
          p("Dogs travel free &amp; on the lead.") +
          item("one") +
          item("two") +
          `<w:tbl>${row("Time", "To")}${row("9:40", "Tansy Holm")}</w:tbl>`,
      ),
    );
    expect(kind).toBe("docx");
    expect(said(blocks)).toEqual([
      "heading: Rules",
      "paragraph: Dogs travel free & on the lead.",
      "paragraph: - one\n- two",
      "row: Time: 9:40; To: Tansy Holm",
    ]);
  });

  it("a PDF by page, from where it was left, with pages that hold no text", async () => {
    const bytes = pdfOf([
      ["# Rules", "Dogs travel free on the car deck, and have", "to be on the lead.", "", "A muzzle is asked for."],
      null,
      ["Mind the step."],
    ]);
    const all = await read(bytes);
    expect(all).toMatchObject({ came: { ok: true }, kind: "pdf", count: 3 });
    expect(all.parts.map(({ place, unread }) => [place, unread])).toEqual([
      [1, null],
      [2, "no-text"],
      [3, null],
    ]);
    expect(said(all.blocks)).toEqual([
      "heading: Rules",
      "paragraph: Dogs travel free on the car deck, and have to be on the lead.",
      "paragraph: A muzzle is asked for.",
      "paragraph: Mind the step.",
    ]);
    expect(all.blocks.map(({ page }) => page)).toEqual([1, 1, 1, 3]);
    expect((await read(bytes, 3)).parts.map(({ place }) => place)).toEqual([3]);
  });

  it.each([
    ["a broken PDF", Buffer.from("%PDF-1.7\nnothing of the kind"), /broken PDF/],
    ["a package that holds no text", zipOf([{ name: "word/other.xml", bytes: Buffer.from("<a/>") }]), /holds no text/],
    [
      "XML that is broken",
      zipOf([{ name: "word/document.xml", bytes: Buffer.from("<w:document><w:p></w:document>") }]),
      /broken XML/,
    ],
    [
      "XML whose entities grow",
      zipOf([
        {
          name: "word/document.xml",
          bytes: Buffer.from('<!DOCTYPE a [<!ENTITY b "xx"><!ENTITY c "&b;&b;">]><a><w:p><w:t>&c;</w:t></w:p></a>'),
        },
      ]),
      /broken XML|holds no text/,
    ],
    [
      "a package that would be too large",
      zipOf([{ name: "word/document.xml", bytes: Buffer.alloc(100), claims: 2_000_000_000 }]),
      /1907 MiB/,
    ],
    [
      "a package that holds more than it says",
      zipOf([{ name: "word/document.xml", bytes: Buffer.alloc(80 * 1024 * 1024), claims: 1_000 }]),
      /broken package/,
    ],
    ["a table that is broken", Buffer.from('a,b\n1,"2\n3,4\n5,6\n'), /[Qq]uote/],
    ["a page that is too long", Buffer.from(`<!doctype html><p>${"long ".repeat(1_100_000)}`), /5000000 are read/],
  ])("says why it can't read %s", async (_, bytes, why) => {
    const { came } = await read(bytes);
    expect(came).toMatchObject({ ok: false, why: expect.stringMatching(why) });
  });

  it("ends it where it needs too much, and this process is none the worse for it", async () => {
    const { came } = await read(Buffer.from("1,2,3\n".repeat(6_000_000)));
    expect(came).toEqual({ ok: false, why: "needs more than 480 MiB to be read" });
  });

  it("ends it where a few kilobytes of a PDF come to a thousand MiB", async () => {
    const bytes = packedPdf(1_000);
    expect(bytes.length).toBeLessThan(50_000);
    const { came } = await read(bytes);
    expect(came).toEqual({ ok: false, why: "needs more than 480 MiB to be read" });
    expect((await read(Buffer.from("Aye, it runs."))).came).toEqual({ ok: true });
  });

  it("stops when it is told to", async () => {
    const control = new AbortController();
    const reading = read(pdfOf(Array.from({ length: 60 }, () => ["Some text."])), 1, control.signal);
    control.abort(new Error("enough"));
    await expect(reading).rejects.toThrow("enough");
  });
});

it("a page's links are found there, too, as they stand in it", async () => {
  const path = join(folder, "links.html");
  writeFileSync(
    path,
    `<!doctype html><base href="/rules/"><a href="dogs.html">Dogs</a> <a>no</a> <a href=" bikes.html ">Bicycles</a>
     <!-- <a href="never.html"> --><script>"<a href='nor.html'>"</script><a href="${"x".repeat(9_000)}">long</a>`,
  );
  const { hrefs, base } = await reader.links(path, new AbortController().signal);
  expect([base, hrefs.slice(0, 2), hrefs[2]?.length, hrefs.length]).toEqual([
    "/rules/",
    ["dogs.html", " bikes.html "],
    2_001,
    3,
  ]);
});

it("a document is cut there, too, into passages that know where they stand", async () => {
  const blocks: Block[] = Array.from({ length: 80 }, (_, at) => ({
    kind: "paragraph",
    text: `Paragraph ${at} of all.`,
  }));
  const passages: string[] = [];
  let tokens = 0;
  const came = await reader.cut(
    blocks,
    { size: 20, overlap: 0 },
    async (more) => {
      passages.push(...more.passages.map(({ text }) => text));
      tokens += more.tokens;
    },
    new AbortController().signal,
  );
  expect(came).toEqual({ ok: true });
  expect(passages.join("\n\n")).toBe(blocks.map(({ text }) => text).join("\n\n"));
  expect(passages.length).toBeGreaterThan(20);
  expect(tokens).toBeGreaterThan(300);
});
