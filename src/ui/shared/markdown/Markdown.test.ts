import fc from "fast-check";
import { type ComponentProps, createElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { Markdown } from "./Markdown";

type Manner = Omit<ComponentProps<typeof Markdown>, "text">;

const whole = (text: string, manner: Manner = {}) => renderToStaticMarkup(createElement(Markdown, { text, ...manner }));

/** What is shown, without the groups and parts that it stands in. */
const shown = (text: string, manner?: Manner) => whole(text, manner).replace(/<\/?div[^>]*>/g, "");

describe("Markdown that is shown", () => {
  it("is what is usual", () => {
    expect(shown("# Boats\n\n**Two** boats, `9:40` &amp; 17:30:\n\n1. a\n2. b\n\n> so")).toBe(
      "<h2>Boats</h2><p><strong>Two</strong> boats, <code>9:40</code> &amp; 17:30:</p>" +
        '<ol start="1"><li>a</li><li>b</li></ol><blockquote><p>so</p></blockquote>',
    );
    expect(shown("| a | b |\n|---|--:|\n| 1 | 2 |")).toContain('<td style="text-align:right">2</td>');
    expect(shown("a  \nb\n\n---\n\n~~c~~")).toBe("<p>a<br/>b</p><hr/><p><del>c</del></p>");
  });

  it.each([
    ["tight", "- [x] done\n- [ ] not"],
    ["loose", "- [x] done\n\n- [ ] not"],
  ])("has a box for each task of a %s list, once", (_, text) => {
    const boxes = [...shown(text).matchAll(/<input[^>]*>/g)].map(([box]) => box.includes('checked=""'));
    expect(boxes).toEqual([true, false]);
    expect(shown(text)).not.toContain("[x]");
  });

  it("keeps the numbers, levels and paragraphs of lists", () => {
    expect(shown("3. a\n4. b\n   - c")).toBe('<ol start="3"><li>a</li><li>b<ul><li>c</li></ul></li></ol>');
    expect(shown("- a\n\n- b")).toBe("<ul><li><p>a</p></li><li><p>b</p></li></ul>");
  });

  it("shows code as it stands, its character references too", () => {
    expect(shown("`&amp;`")).toBe("<p><code>&amp;amp;</code></p>");
    expect(shown("a &lt;b&gt; &#9658; &nosuch;")).toBe("<p>a &lt;b&gt; ► &amp;nosuch;</p>");
  });

  it("shows what a footnote says where it stands, and no other definition", () => {
    expect(shown("Boats[^1]\n\n[^1]: two of them")).toBe("<p>Boats[^1]</p><p>[^1]: two of them</p>");
    expect(shown("[line][1]\n[1]: https://saltmarsh.example/")).not.toContain("undefined");
  });

  it.each([
    ["<script>alert(1)</script>", "&lt;script&gt;"],
    ["<img src=x onerror=alert(1)>", "&lt;img"],
    ["[away](javascript:alert(1))", "away"],
    ["[away](  JaVaScRiPt:alert(1))", "away"],
    ["![a boat](http://elsewhere.test/a.png)", "[picture: a boat]"],
    ["&#60;script&#62;", "&lt;script&gt;"],
  ])("makes nothing of %j but its words", (text, words) => {
    const html = shown(text);
    expect(html).toContain(words);
    expect(html).not.toMatch(/<(?:script|img|iframe)|javascript:/i);
  });

  it("gives links that give nothing away", () => {
    const link =
      '<a href="https://saltmarsh.example/" target="_blank" rel="noopener noreferrer">https://saltmarsh.example/</a>';
    expect(shown("[https://saltmarsh.example/](https://saltmarsh.example/)")).toContain(link);
    expect(shown("see https://saltmarsh.example/ now")).toContain(link);
  });

  it("is the words alone where it is plain, a line for each part", () => {
    const plain = shown(
      "## Boats\n\n- **one** [link](https://a.example)\n- two\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n```\nx\n\ny\n```",
      { isPlain: true },
    );
    expect([...plain.matchAll(/<p[^>]*>([^<]*)<\/p>/g)].map(([, line]) => line)).toEqual([
      "Boats",
      "one link",
      "two",
      "a, b",
      "1, 2",
      "x\n\ny",
    ]);
    expect(plain).not.toMatch(/<(?!\/?p\b)/);
  });

  it("has one head for a table that was cut, seen once, and hides none of its rows", () => {
    const rows = Array.from({ length: 90 }, (_, at) => `| ${at} | 9:40 |`);
    const html = whole(["| boat | time |", "|---|---|", ...rows].join("\n"));
    expect([...html.matchAll(/data-joins="(\w+)"/g)].map(([, joins]) => joins)).toEqual(["no", "block", "block"]);
    expect([...html.matchAll(/<td>(\d+)<\/td>/g)].map(([, at]) => Number(at))).toEqual(rows.map((_, at) => at));
  });

  it("shows a fence that was cut without its marks, also where nothing follows it", () => {
    const lines = Array.from({ length: 150 }, (_, at) => `line ${at}`);
    const html = shown(`\`\`\`ts\n${lines.join("\n")}\n\`\`\``);
    const codes = [...html.matchAll(/<code>([^<]*)<\/code>/g)].map(([, code]) => code).join("");
    expect(codes).toBe(`${lines.join("\n")}\n`);
  });

  it("marks words in what is shown, over the ends of elements and in code", () => {
    const marking = (words: string) => {
      const from = words.indexOf("9:40 boat");
      return from < 0 ? [] : [{ from, to: from + 9, as: "mark" as const }];
    };
    expect(shown("The **9:40** boat.", { marking })).toBe(
      "<p>The <strong><mark>9:40</mark></strong><mark> boat</mark>.</p>",
    );
    expect(shown("```\nthe 9:40 boat\n```", { marking })).toContain("<code>the <mark>9:40 boat</mark></code>");
    expect(shown("| a | b |\n|---|---|\n| x | the 9:40 boat |", { marking })).toContain(
      "<td>the <mark>9:40 boat</mark></td>",
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
      /^(?:div|p|h[2-6]|ul|ol|li|blockquote|pre|code|em|strong|del|a|br|hr|section|table|thead|tbody|tr|th|td|input|button|span|small)$/;
    fc.assert(
      fc.property(fc.array(fc.oneof(marks, fc.string()), { maxLength: 60 }), fc.boolean(), (parts, isPlain) => {
        for (const [, name = ""] of whole(parts.join(""), { isPlain }).matchAll(/<([a-z][\w-]*)/gi))
          expect(name).toMatch(own);
      }),
    );
  });
});
