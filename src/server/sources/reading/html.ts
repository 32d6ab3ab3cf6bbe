import { isProbablyReaderable, Readability } from "@mozilla/readability";
import { parseHTML } from "linkedom";
import { longestAddress, type PageLinks } from "@/core/sources/below";
import { type Block, rowInWords } from "@/core/sources/document";
import { Unreadable } from "./telling";

/** Characters of a page that are read. */
const longestPage = 5_000_000;

/** What nobody reads on a page, or what is there to find one's way about. */
const beside =
  "head, title, script, style, template, noscript, svg, canvas, iframe, object, embed, form, button, nav, footer, aside, [hidden], [aria-hidden=true]";
/** Styles under which nobody sees a text. */
const unseen = /display\s*:\s*none|visibility\s*:\s*hidden|opacity\s*:\s*0(?![.\d]*[1-9])|font-size\s*:\s*0/i;

/**
 * A page as blocks: what stands in its main part, without what leads elsewhere and without what nobody sees. Nothing in
 * it runs, and nothing is fetched.
 * @throws {Unreadable} where it is too long
 */
export function blocksOfHtml(html: string): Block[] {
  const { document } = parsed(html);
  for (const element of document.querySelectorAll(beside)) element.remove();
  for (const element of document.querySelectorAll("[style]"))
    if (unseen.test(element.getAttribute("style") ?? "")) element.remove();
  const root = mainOf(document);
  return root ? new Walk().through(root) : [];
}

/** Links that are looked at in a page. */
const mostLinks = 2_000;

/** What a page leads to, as it stands there. @throws {Unreadable} where it is too long */
export function linksOfHtml(html: string): PageLinks {
  const { document } = parsed(html);
  const links = [...document.querySelectorAll("a[href], area[href]")].slice(0, mostLinks);
  return {
    hrefs: links.flatMap((link) => link.getAttribute("href")?.slice(0, longestAddress + 1) ?? []),
    base:
      document
        .querySelector("base[href]")
        ?.getAttribute("href")
        ?.slice(0, longestAddress + 1) ?? undefined,
  };
}

/** @throws {Unreadable} where it is too long */
function parsed(html: string): { document: Document } {
  if (html.length > longestPage)
    throw new Unreadable(`is a page of ${html.length} characters, and ${longestPage} are read of one`);
  return parseHTML(wholePage(html));
}

/** The main part of a page: what it says is one, what reads like one, or all of it. */
function mainOf(document: Document): Element | null {
  const named = document.querySelectorAll("main, article, [role=main]");
  if (named.length === 1) return named[0] as Element;
  if (named.length === 0 && isProbablyReaderable(document)) {
    // it takes apart what it reads
    const copy = parseHTML(document.documentElement.outerHTML).document;
    const found = new Readability(copy, { charThreshold: 200 }).parse()?.content;
    const root = found && parseHTML(`<html><body>${found}</body></html>`).document.body;
    if (root) return root;
  }
  return document.documentElement;
}

/** A page with the elements around it that pages may leave out. */
function wholePage(html: string): string {
  return /<html[\s>]/i.test(html) ? html : `<html><body>${html.replace(/^\s*<!doctype[^>]*>/i, "")}</body></html>`;
}

const blockNames = new Set(
  `ADDRESS ARTICLE BLOCKQUOTE BODY CAPTION DD DETAILS DIV DL DT FIELDSET FIGCAPTION FIGURE H1 H2 H3 H4 H5 H6 HEADER HR
   HTML LI MAIN OL P PRE SECTION SUMMARY TABLE TBODY TD TFOOT TH THEAD TR UL`.split(/\s+/),
);
/** Elements within each other that are gone into. */
const deepest = 200;

/** Goes through a page, and makes blocks of what it meets. */
class Walk {
  private readonly blocks: Block[] = [];
  private rows = 0;
  /** Words that belong to no block yet. */
  private words = "";

  through(root: Element): Block[] {
    this.into(root, 0);
    this.end();
    return this.blocks;
  }

  private into(element: Element, depth: number): void {
    if (depth > deepest) {
      this.words += ` ${element.textContent ?? ""}`;
      return;
    }
    for (const node of element.childNodes) {
      if (node.nodeType === 3) this.words += node.textContent ?? "";
      if (node.nodeType === 1) this.element(node as Element, depth + 1);
    }
  }

  private element(element: Element, depth: number): void {
    const name = element.nodeName.toUpperCase();
    if (name === "BR") this.words += "\n";
    else if (name === "IMG") this.words += ` ${element.getAttribute("alt") ?? ""} `;
    else if (!blockNames.has(name)) this.into(element, depth);
    else {
      this.end();
      if (/^H[1-6]$/.test(name)) this.add({ kind: "heading", level: Number(name[1]), text: plain(element) });
      else if (name === "PRE") this.add({ kind: "code", text: (element.textContent ?? "").replace(/^\n|\s+$/g, "") });
      else if (name === "TABLE") this.table(element, depth);
      else if (name === "UL" || name === "OL") this.add({ kind: "paragraph", text: items(element, 0) });
      else this.into(element, depth);
      this.end();
    }
  }

  /** A table is a row each, with the names of its columns; one that arranges a page is what stands in its cells. */
  private table(table: Element, depth: number): void {
    const rows: Element[] = [...table.querySelectorAll("tr")];
    if (table.querySelector("table") || rows.length < 2) {
      this.into(table, depth);
      return;
    }
    const cellsOf = (row: Element) => [...row.children].map(plain);
    const [first, ...others] = rows as [Element, ...Element[]];
    const hasHead = first.querySelector("th") !== null;
    const head = hasHead ? cellsOf(first) : [];
    for (const row of hasHead ? others : rows) {
      this.rows += 1;
      this.add({ kind: "row", row: this.rows, text: rowInWords(head, cellsOf(row)) });
    }
  }

  private end(): void {
    const text = tidy(this.words);
    this.words = "";
    this.add({ kind: "paragraph", text });
  }

  private add(block: Block): void {
    if (block.text.trim() !== "") this.blocks.push(block);
  }
}

function items(list: Element, level: number): string {
  const isOrdered = list.nodeName.toUpperCase() === "OL";
  return [...list.children]
    .map((item, at) => {
      const inner = [...item.children].filter((child) => /^(?:UL|OL)$/i.test(child.nodeName));
      const own = [...item.childNodes].filter((node) => !inner.includes(node as Element));
      const words = tidy(own.map((node) => node.textContent ?? "").join("")).replace(/\n+/g, " ");
      const more = level < 8 ? inner.map((each) => `\n${items(each, level + 1)}`).join("") : "";
      return `${"  ".repeat(level)}${isOrdered ? `${at + 1}.` : "-"} ${words}${more}`;
    })
    .join("\n");
}

function plain(element: Element): string {
  return (element.textContent ?? "").replace(/\s+/g, " ").trim();
}

/** Words of a page, in which blanks in a row are one. */
function tidy(words: string): string {
  return words
    .replace(/[^\S\n]+/g, " ")
    .replace(/ ?\n ?/g, "\n")
    .replace(/\n+/g, "\n")
    .trim();
}
