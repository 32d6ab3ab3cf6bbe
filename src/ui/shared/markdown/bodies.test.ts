import { parseHTML } from "linkedom";
import { createElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { Cutter } from "./cut";
import { Markdown } from "./Markdown";
import { heavyBodies, hostileBodies } from "./test/bodies";
import { type Node, treeOf } from "./tree";

/** Elements that a reply is shown with, and the attributes that any of them may have. */
const tags =
  /^(?:a|blockquote|br|button|code|del|div|em|h[2-6]|hr|input|li|ol|p|pre|section|small|span|strong|table|tbody|td|th|thead|tr|ul)$/;
const attributes =
  /^(?:aria-[a-z]+|checked|class|data-[a-z]+|dir|disabled|href|rel|role|start|style|tabindex|target|title|type)$/;
const styles = /^(?:text-align:(?:left|center|right))?$/;
/** Where a link may lead. */
const addresses = /^(?:https?:\/\/|mailto:)/;

/** What stands in HTML that no reply is shown with: an element, an attribute, a link. */
function strangersIn(html: string): string[] {
  const { document } = parseHTML(`<body>${html}</body>`);
  return [...document.querySelectorAll("body *")].flatMap((element) => [
    ...(tags.test(element.localName) ? [] : [element.localName]),
    ...[...element.attributes].flatMap(({ name, value }) => {
      const isFine =
        attributes.test(name) && (name !== "href" || addresses.test(value)) && (name !== "style" || styles.test(value));
      return isFine ? [] : [`${element.localName} ${name}=${value}`];
    }),
  ]);
}

/** Where the links of a text lead. */
function links(nodes: readonly Node[]): string[] {
  return nodes.flatMap((node) => {
    if (typeof node === "string" || !("children" in node)) return [];
    return [...(node.tag === "a" ? [node.href] : []), ...links(node.children)];
  });
}

describe("a reply that is hostile", () => {
  it.each(hostileBodies.map(({ name, text }) => [name, text]))("is words, and no more: %s", (_name, text) => {
    expect(strangersIn(renderToStaticMarkup(createElement(Markdown, { text })))).toEqual([]);
  });

  it.each([
    ["<p><script>1</script></p>", ["script"]],
    ['<p onclick="1">a</p>', ["p onclick=1"]],
    ['<a href="javascript:1">a</a>', ["a href=javascript:1"]],
    ['<td style="background:url(a)">a</td>', ["td style=background:url(a)"]],
    ['<a href="https://saltmarsh.example/" rel="noopener">a</a>', []],
  ])("would be found out: %s", (html, found) => {
    expect(strangersIn(html)).toEqual(found);
  });
});

describe("a reply that is heavy", () => {
  it.each(heavyBodies.map(({ name, text }) => [name, text]))(
    "is read within bounds, block by block: %s",
    (_name, text) => {
      const cutter = new Cutter();
      cutter.take(text);
      const blocks = cutter.open ? [...cutter.closed, cutter.open] : cutter.closed;
      expect(blocks.length).toBeGreaterThan(0);
      const trees = blocks.map(treeOf);
      const leads = trees.flatMap((tree) => (tree.kind === "read" ? links(tree.nodes) : []));
      expect(leads.filter((address) => !addresses.test(address))).toEqual([]);
    },
  );
});
