import { Lexer, type Token, type Tokens } from "marked";
import { memo, type ReactNode, useEffect, useRef, useState } from "react";
import { tooMuch } from "../shared/markdown/bounds";
import { type Block, Cutter } from "../shared/markdown/cut";

/** Addresses that a link may lead to. */
const safe = /^(?:https?:|mailto:)/i;
/** Characters of code that are coloured. */
const mostColoured = 20_000;
const named: Record<string, string> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'", nbsp: "\u00a0" };

/**
 * A model's Markdown on the visitors' page, read by something small. It is not trusted: HTML in it is shown as it
 * is written, pictures are named and not loaded, links give nothing away. It is cut as it comes, so that a long
 * text costs no more at its end than at its beginning.
 * @param isPlain shows the words alone, without any marks
 */
export default function Markdown({
  text,
  isArriving,
  isPlain,
}: {
  text: string;
  isArriving: boolean;
  isPlain: boolean;
}) {
  const cutter = useRef<Cutter>(undefined);
  cutter.current ??= new Cutter();
  cutter.current.take(text);
  const { closed, open } = cutter.current;
  return (
    <div className="talk-text" data-arriving={isArriving || undefined} dir="auto">
      {closed.map((block, at) => (
        // what is closed never changes
        <Part key={at} {...block} isPlain={isPlain} isOpen={false} />
      ))}
      {open && <Part key={closed.length} {...open} isPlain={isPlain} isOpen={isArriving} />}
    </div>
  );
}

const Part = memo(function Part({ kind, text, isPlain, isOpen }: Block & { isPlain: boolean; isOpen: boolean }) {
  if (kind === "code") return <Code text={text} language="" isOpen={isOpen} />;
  if (tooMuch(text) !== undefined) return <p className="talk-written">{text}</p>;
  const tokens = read(text);
  return tokens === undefined ? (
    <p className="talk-written">{text}</p>
  ) : isPlain ? (
    <Words tokens={tokens} />
  ) : (
    all(tokens)
  );
});

function read(text: string): Token[] | undefined {
  try {
    return Lexer.lex(text);
  } catch {
    // a text that can't be read is shown as it is written
    return undefined;
  }
}

function all(tokens: readonly Token[] | undefined): ReactNode {
  return tokens?.map((token, at) => <Shown key={at} token={token} />);
}

/** One thing that was read, and all that is in it. */
function Shown({ token }: { token: Token }): ReactNode {
  switch (token.type) {
    case "space":
    case "def":
      return null;
    case "paragraph":
      return <p>{all(token.tokens)}</p>;
    case "heading": {
      // the page has its own first heading
      const Heading = `h${Math.min((token as Tokens.Heading).depth + 1, 6)}` as "h2";
      return <Heading>{all(token.tokens)}</Heading>;
    }
    case "blockquote":
      return <blockquote>{all(token.tokens)}</blockquote>;
    case "hr":
      return <hr />;
    case "br":
      return <br />;
    case "code":
      return <Code text={token.text} language={(token as Tokens.Code).lang ?? ""} isOpen={false} />;
    case "list": {
      const { ordered, start, items } = token as Tokens.List;
      const shown = items.map((item, at) => (
        <li key={at}>
          {item.task && <input type="checkbox" checked={item.checked ?? false} readOnly aria-label="Done" />}
          {all(item.tokens.filter(({ type }) => type !== "checkbox"))}
        </li>
      ));
      return ordered ? <ol start={start === "" ? 1 : start}>{shown}</ol> : <ul>{shown}</ul>;
    }
    case "table":
      return <Table {...(token as Tokens.Table)} />;
    case "strong":
      return <strong>{all(token.tokens)}</strong>;
    case "em":
      return <em>{all(token.tokens)}</em>;
    case "del":
      return <del>{all(token.tokens)}</del>;
    case "codespan":
      return <code>{plain(token.text)}</code>;
    case "link": {
      const { href, tokens } = token as Tokens.Link;
      if (!safe.test(href)) return all(tokens);
      return (
        <a href={href} target="_blank" rel="noopener noreferrer">
          {all(tokens)}
        </a>
      );
    }
    case "image":
      return `[${token.text || "picture"}]`;
    case "html":
      return token.raw;
    default:
      return "tokens" in token && token.tokens ? all(token.tokens) : plain("text" in token ? token.text : token.raw);
  }
}

function Table({ header, rows, align }: Tokens.Table) {
  const style = (at: number) => (align[at] ? { textAlign: align[at] as "left" } : undefined);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className="talk-scroll" tabIndex={0} aria-label="Table">
      <table>
        <thead>
          <tr>
            {header.map((cell, at) => (
              <th key={at} style={style(at)}>
                {all(cell.tokens)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <tr key={at}>
              {row.map((cell, column) => (
                <td key={column} style={style(column)}>
                  {all(cell.tokens)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Code, coloured once it is whole: what colours it is fetched then. */
function Code({ text, language, isOpen }: { text: string; language: string; isOpen: boolean }) {
  const [coloured, setColoured] = useState<{ text: string; shown: ReactNode }>();
  useEffect(() => {
    if (isOpen || text.length > mostColoured) return;
    let isWanted = true;
    const later = setTimeout(async () => {
      const { colour } = await import("./colour");
      if (isWanted) setColoured({ text, shown: colour(text, language) });
    }, 300);
    return () => {
      isWanted = false;
      clearTimeout(later);
    };
  }, [text, language, isOpen]);
  return (
    <div className="talk-fence">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <pre className="talk-code" tabIndex={0} dir="ltr">
        <code>{coloured?.text === text ? coloured.shown : text}</code>
      </pre>
      {!isOpen && text !== "" && <Copy text={text} />}
    </div>
  );
}

/** Copies code, and says that it did. */
function Copy({ text }: { text: string }) {
  const [said, setSaid] = useState("Copy");
  // until the page's script is there a click would be lost
  const [canCopy, setCanCopy] = useState(false);
  useEffect(() => setCanCopy(true), []);
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(text);
      setSaid("Copied");
    } catch {
      // a page without https, or a frame that is not allowed to
      setSaid("It can't be copied here");
    }
  };
  return (
    <button type="button" className="talk-word talk-copy" disabled={!canCopy} onClick={() => void copy()}>
      {said}
    </button>
  );
}

/** The words alone: a line for each paragraph, item and row. */
function Words({ tokens }: { tokens: readonly Token[] }) {
  return linesIn(tokens).map((line, at) => (
    <p key={at} className="talk-written">
      {line}
    </p>
  ));
}

function linesIn(tokens: readonly Token[]): string[] {
  return tokens.flatMap((token) => {
    if (token.type === "space" || token.type === "hr" || token.type === "def") return [];
    if (token.type === "list") return (token as Tokens.List).items.flatMap((item) => linesIn(item.tokens));
    if (token.type === "blockquote") return linesIn((token as Tokens.Blockquote).tokens);
    if (token.type === "table") {
      const { header, rows } = token as Tokens.Table;
      return [header, ...rows].map((row) => row.map((cell) => wordsIn(cell.tokens)).join(", "));
    }
    const words = wordsOf(token);
    return words.trim() === "" ? [] : [words];
  });
}

function wordsIn(tokens: readonly Token[]): string {
  return tokens.map(wordsOf).join("");
}

function wordsOf(token: Token): string {
  if (token.type === "br") return "\n";
  if ("tokens" in token && token.tokens) return wordsIn(token.tokens);
  return plain("text" in token ? token.text : token.raw);
}

/** A text with its character references (CommonMark 2.5) as characters, as far as they are usual ones. */
function plain(text: string): string {
  return text.replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|(\w{2,6}));/gi, (whole, decimal, hex, name) => {
    if (name) return named[name.toLowerCase()] ?? whole;
    const code = Number.parseInt(decimal ?? hex, decimal ? 10 : 16);
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}
