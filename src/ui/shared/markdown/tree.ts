import { Lexer, type Token, type Tokens } from "marked";
import { tooMuch } from "./bounds";
import { type Block, languageIn } from "./cut";

/**
 * What a block shows: words, and elements with more in them. A model's Markdown is not trusted: HTML in it is words,
 * pictures are named and not loaded, links lead to the web or to a mailbox.
 */
export type Node = string | Element;

export type Element =
  | { tag: PlainTag; children: readonly Node[] }
  | { tag: "ol"; start: number; children: readonly Node[] }
  | { tag: "th" | "td"; align: "left" | "center" | "right" | null; children: readonly Node[] }
  | { tag: "a"; href: string; children: readonly Node[] }
  | { tag: "task"; isDone: boolean }
  | { tag: "hr" | "br" }
  /** Code in a fence, or indented. */
  | { tag: "fence"; language: string; text: string };

export type PlainTag =
  | "p"
  | Heading
  | "blockquote"
  | "ul"
  | "li"
  | "table"
  | "thead"
  | "tbody"
  | "tr"
  | "strong"
  | "em"
  | "del"
  | "code";
type Heading = "h2" | "h3" | "h4" | "h5" | "h6";

/** A block as it can be shown: read, or as it was written, with the reason in words that follow "Shown as written: ". */
export type Tree = { kind: "read"; nodes: readonly Node[] } | { kind: "written"; why: string };

/** Levels that a tree may have. */
const deepest = 60;

/** Reads a block by itself: CommonMark with the tables, tasks, deletions and bare links of GFM. */
export function treeOf({ kind, text, language = "" }: Pick<Block, "kind" | "text" | "language">): Tree {
  if (kind === "code") return { kind: "read", nodes: [{ tag: "fence", language, text }] };
  const why = tooMuch(text);
  if (why) return { kind: "written", why };
  try {
    return { kind: "read", nodes: nodesOf(Lexer.lex(text), 0) };
  } catch (error) {
    return { kind: "written", why: error instanceof TooDeep ? "it is nested too deep" : "it could not be read" };
  }
}

class TooDeep extends Error {}

function nodesOf(tokens: readonly Token[] | undefined, depth: number): Node[] {
  if (depth > deepest) throw new TooDeep();
  return tokens?.flatMap((token) => nodeOf(token as Token & { type: string }, depth + 1)) ?? [];
}

/** Addresses that a link may lead to. */
const safe = /^(?:https?:|mailto:)/i;

function nodeOf(token: Token, depth: number): Node | Node[] {
  const within = () => nodesOf("tokens" in token ? token.tokens : undefined, depth);
  switch (token.type) {
    case "space":
      return [];
    case "def":
      // what a footnote says is shown where it stands; other definitions are for links alone
      return token.raw.startsWith("[^") ? { tag: "p", children: [token.raw.trim()] } : [];
    case "paragraph":
      return { tag: "p", children: within() };
    case "heading":
      // where it stands has a first heading of its own
      return { tag: `h${Math.min((token as Tokens.Heading).depth + 1, 6)}` as Heading, children: within() };
    case "blockquote":
    case "strong":
    case "em":
    case "del":
      return { tag: token.type, children: within() };
    case "hr":
    case "br":
      return { tag: token.type };
    case "code":
      return { tag: "fence", language: languageIn((token as Tokens.Code).lang), text: token.text };
    case "codespan":
      return { tag: "code", children: [token.text] };
    case "list":
      return listOf(token as Tokens.List, depth);
    case "checkbox":
      return { tag: "task", isDone: (token as Tokens.Checkbox).checked };
    case "table":
      return tableOf(token as Tokens.Table, depth);
    case "link": {
      const { href, autolink, text } = token as Tokens.Link;
      const children = autolink ? [text] : within();
      return safe.test(href) ? { tag: "a", href, children } : children;
    }
    case "image":
      return `[picture: ${token.text || (token as Tokens.Image).href}]`;
    case "html":
      return token.raw;
    default:
      if ("tokens" in token && token.tokens) return within();
      return token.type === "text" ? withCharacters(token.raw) : "text" in token ? String(token.text) : token.raw;
  }
}

const named: Record<string, string> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'", nbsp: "\u00a0" };

/** A text with its character references (CommonMark 2.5) as characters, as far as they are usual ones. */
function withCharacters(text: string): string {
  return text.replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|(\w{2,6}));/gi, (whole, decimal, hex, name) => {
    if (name) return named[name.toLowerCase()] ?? whole;
    const code = Number.parseInt(decimal ?? hex, decimal ? 10 : 16);
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}

function listOf({ ordered, start, items, loose }: Tokens.List, depth: number): Node {
  const children = items.map(
    ({ tokens }): Node => ({
      tag: "li",
      children: tokens.flatMap((token) =>
        loose && token.type === "text"
          ? [{ tag: "p" as const, children: nodesOf([token], depth + 1) }]
          : nodesOf([token], depth),
      ),
    }),
  );
  return ordered ? { tag: "ol", start: start === "" ? 1 : start, children } : { tag: "ul", children };
}

function tableOf({ header, rows, align }: Tokens.Table, depth: number): Node {
  const row = (tag: "th" | "td", cells: readonly Tokens.TableCell[]): Node => ({
    tag: "tr",
    children: cells.map(({ tokens }, at) => ({ tag, align: align[at] ?? null, children: nodesOf(tokens, depth) })),
  });
  const body = rows.map((cells) => row("td", cells));
  return {
    tag: "table",
    children: [
      { tag: "thead", children: [row("th", header)] },
      { tag: "tbody", children: body },
    ],
  };
}

/** What parts the words of an element from those after it. */
export function endOf(tag: Element["tag"]): string {
  return /^(?:p|h[2-6]|li|tr|fence|br)$/.test(tag) ? "\n" : "";
}

/** What parts the cells of a row. */
export const cellEnd = ", ";

/** The words that a block shows, in their order; that is what marks are counted in. */
export function shownWords(nodes: readonly Node[]): string {
  return nodes.map(wordsOfNode).join("");
}

function wordsOfNode(node: Node): string {
  if (typeof node === "string") return node;
  const words =
    node.tag === "fence"
      ? node.text
      : node.tag === "tr"
        ? node.children.map(wordsOfNode).join(cellEnd)
        : "children" in node
          ? shownWords(node.children)
          : "";
  return words + endOf(node.tag);
}

/** The words alone: a line for each paragraph, item, row and piece of code. */
export function linesOf(nodes: readonly Node[]): string[] {
  const lines: string[] = [];
  let inline = "";
  const close = () => {
    if (inline.trim() !== "") lines.push(inline.trim());
    inline = "";
  };
  for (const node of nodes) {
    if (typeof node === "string" || !isBlock(node)) {
      inline += wordsOfNode(node);
      continue;
    }
    close();
    if (/^(?:p|h[2-6]|tr|fence)$/.test(node.tag)) inline = wordsOfNode(node);
    else if ("children" in node) lines.push(...linesOf(node.children));
    close();
  }
  close();
  return lines;
}

function isBlock({ tag }: Element): boolean {
  return !/^(?:strong|em|del|code|a|br|task)$/.test(tag);
}
