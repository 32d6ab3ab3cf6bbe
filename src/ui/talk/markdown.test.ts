import fc from "fast-check";
import { createElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import Markdown from "./markdown";

const shown = (text: string, isPlain = false) =>
  renderToStaticMarkup(createElement(Markdown, { text, isArriving: false, isPlain }));

describe("Markdown on the visitors' page", () => {
  it("shows what is usual", () => {
    expect(shown("# Boats\n\n**Two** boats, `9:40` &amp; 17:30:\n\n1. a\n2. b\n\n> so")).toBe(
      '<div class="talk-text" dir="auto"><h2>Boats</h2><p><strong>Two</strong> boats, <code>9:40</code> &amp; 17:30:</p>' +
        '<ol start="1"><li>a</li><li>b</li></ol><blockquote><p>so</p></blockquote></div>',
    );
    expect(shown("| a | b |\n|---|--:|\n| 1 | 2 |")).toContain('<td style="text-align:right">2</td>');
    expect(shown("- [x] done\n- [ ] not")).toContain(
      '<input type="checkbox" readOnly="" aria-label="Done" checked=""/>',
    );
  });

  it.each([
    ["<script>alert(1)</script>", "&lt;script&gt;"],
    ["<img src=x onerror=alert(1)>", "&lt;img"],
    ["[away](javascript:alert(1))", "away"],
    ["[away](  JaVaScRiPt:alert(1))", "away"],
    ["![a boat](http://elsewhere.test/a.png)", "[a boat]"],
    ["&#60;script&#62;", "&lt;script&gt;"],
  ])("makes nothing of %j but its words", (text, words) => {
    const html = shown(text);
    expect(html).toContain(words);
    expect(html).not.toMatch(/<(?:script|img|iframe)|javascript:/i);
  });

  it("gives links that give nothing away", () => {
    expect(shown("[the line](https://saltmarsh.example/)")).toContain(
      '<a href="https://saltmarsh.example/" target="_blank" rel="noopener noreferrer">the line</a>',
    );
  });

  it("gives the words alone where it is plain, a line for each part", () => {
    expect(
      shown("## Boats\n\n- **one** [link](https://a.example)\n- two\n\n| a | b |\n|---|---|\n| 1 | 2 |", true),
    ).toBe(
      '<div class="talk-text" dir="auto">' +
        ["Boats", "one link", "two", "a, b", "1, 2"].map((line) => `<p class="talk-written">${line}</p>`).join("") +
        "</div>",
    );
  });

  it("never breaks, and never makes an element that is not its own, whatever is said", () => {
    const marks = fc.constantFrom(
      "<",
      ">",
      "&",
      "[",
      "](",
      ")",
      "*",
      "_",
      "`",
      "```",
      "\n",
      "| ",
      "- ",
      "# ",
      "javascript:",
      "a",
    );
    const own =
      /^(?:div|p|h[2-6]|ul|ol|li|blockquote|pre|code|em|strong|del|a|br|hr|section|table|thead|tbody|tr|th|td|input)$/;
    fc.assert(
      fc.property(fc.array(fc.oneof(marks, fc.string()), { maxLength: 60 }), fc.boolean(), (parts, isPlain) => {
        for (const [, name = ""] of shown(parts.join(""), isPlain).matchAll(/<([a-z][\w-]*)/gi))
          expect(name).toMatch(own);
      }),
    );
  });
});
