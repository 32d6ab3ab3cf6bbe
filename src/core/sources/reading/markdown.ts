import { marked, type Token, type Tokens } from "marked";
import { type Block, rowInWords } from "../document";

/**
 * Markdown as blocks (CommonMark, with tables). The rows of a table have the names of its columns with them, a list is
 * a paragraph with a line an item; of HTML nothing but its text is read.
 */
export function blocksOfMarkdown(text: string): Block[] {
  const rows = { count: 0 };
  return marked.lexer(text.replace(/^\uFEFF/, "")).flatMap((token) => blocksOf(token, rows));
}

/** @param rows counts the rows of all tables of a document */
function blocksOf(token: Token, rows: { count: number }): Block[] {
  switch (token.type) {
    case "heading": {
      const { depth } = token as Tokens.Heading;
      return said("heading", plainOf(token), { level: depth });
    }
    case "code":
      return said("code", (token as Tokens.Code).text);
    case "table": {
      const { header, rows: body } = token as Tokens.Table;
      const head = header.map(plainOf);
      return body.flatMap((cells) => {
        rows.count += 1;
        return said("row", rowInWords(head, cells.map(plainOf)), { row: rows.count });
      });
    }
    case "blockquote":
      return (token as Tokens.Blockquote).tokens.flatMap((each) => blocksOf(each, rows));
    case "list":
      return said("paragraph", itemsOf(token as Tokens.List));
    case "html":
      return said("paragraph", withoutTags((token as Tokens.HTML).text));
    case "space":
    case "hr":
    case "def":
      return [];
    default:
      return said("paragraph", plainOf(token));
  }
}

function said<K extends Block["kind"]>(kind: K, text: string, more: object = {}): Block[] {
  return text.trim() === "" ? [] : [{ kind, text: text.trim(), ...more } as Block];
}

function itemsOf({ items, ordered, start }: Tokens.List): string {
  return items
    .map(({ tokens }, at) => {
      const mark = ordered ? `${Number(start || 1) + at}.` : "-";
      const lines = tokens.map((token) =>
        token.type === "list" ? indented(itemsOf(token as Tokens.List)) : plainOf(token),
      );
      return `${mark} ${lines.join("\n")}`;
    })
    .join("\n");
}

function indented(text: string): string {
  return text.replace(/^/gm, "  ");
}

/** The words of a token, without what marks them: of a link what it says, of a picture what stands for it. */
function plainOf(token: Token | Tokens.TableCell): string {
  if ("tokens" in token && token.tokens && token.tokens.length > 0) return token.tokens.map(plainOf).join("");
  if (!("type" in token)) return token.text;
  switch (token.type) {
    case "br":
      return "\n";
    case "html":
      return withoutTags((token as Tokens.HTML).text);
    case "image":
    case "text":
    case "escape":
    case "codespan":
      return unescaped((token as Tokens.Text).text);
    default:
      return "text" in token ? unescaped(String(token.text)) : "";
  }
}

function withoutTags(html: string): string {
  return unescaped(html.replace(/<!--[\s\S]*?-->|<(script|style)\b[\s\S]*?<\/\1>|<[^>]*>/gi, " ")).replace(
    /[^\S\n]+/g,
    " ",
  );
}

const entities: Record<string, string> = { amp: "&", lt: "<", gt: ">", quot: '"', nbsp: " ", "#39": "'", apos: "'" };

function unescaped(text: string): string {
  return text.replace(/&(#?\w{1,8});/g, (whole, name: string) => entities[name.toLowerCase()] ?? whole);
}
