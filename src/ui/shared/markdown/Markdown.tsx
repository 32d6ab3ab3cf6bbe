import { type ComponentProps, memo, type ReactNode, useMemo, useRef, useState } from "react";
import ReactMarkdown from "react-markdown";
import rehypeHighlight from "rehype-highlight";
import remarkGfm from "remark-gfm";
import { CopyWord } from "../CopyWord";
import { Fallible } from "../Fallible";
import { count as figure } from "../format";
import { tooMuch } from "./bounds";
import { type Block, Cutter } from "./cut";
import styles from "./Markdown.module.css";
import { plainNotes, shallow } from "./plugins";
import { useSlices } from "./slices";

/** Blocks that are one element of the page: the browser lays out only those that are near. */
const groupSize = 24;
/** Groups that are shown from the beginning and from the end of a text that is longer than both. */
const shownGroups = 120;
/** Characters of a fence above which it is coloured only once it is whole, and of one that is coloured at all. */
const colourful = { arriving: 2_000, most: 20_000 };

/**
 * A model's Markdown, which is not trusted: no HTML of its own, no remote pictures, links that
 * give nothing away. It is bounded in depth, size and time: it is cut as it comes and shown in slices,
 * and what can't be read within bounds is shown as it was written, and says so.
 */
export function Markdown({ text, arriving = false }: { text: string; arriving?: boolean }) {
  const cutter = useRef<Cutter>(undefined);
  cutter.current ??= new Cutter();
  cutter.current.take(text);
  const { closed, open } = cutter.current;
  const [showsAll, setShowsAll] = useState(false);
  const total = closed.length + (open ? 1 : 0);
  const shown = useSlices(closed, open !== undefined);
  const groups = Math.ceil(shown / groupSize);
  const isLong = !showsAll && groups > 2 * shownGroups;
  const group = (at: number) => (
    <Group
      key={at}
      blocks={closed}
      from={at * groupSize}
      to={Math.min((at + 1) * groupSize, closed.length, shown)}
      open={open && shown === total && at === groups - 1 ? open.text : undefined}
      openAs={open}
      arriving={arriving}
    />
  );
  const range = (from: number, to: number) => Array.from({ length: to - from }, (_, at) => group(from + at));
  return (
    <div className={styles.markdown} data-arriving={arriving} aria-busy={shown < total}>
      {/* one list of groups, whatever is left out of it: none of them is made anew */}
      {isLong
        ? [
            ...range(0, shownGroups),
            <p key="left out" className={styles.note}>
              {figure((groups - 2 * shownGroups) * groupSize)} parts in the middle are left out.{" "}
              <button type="button" className="link" onClick={() => setShowsAll(true)}>
                show them
              </button>
            </p>,
            ...range(groups - shownGroups, groups),
          ]
        : range(0, groups)}
      {shown < total && (
        <p className={styles.note} role="status">
          Showing the rest: {Math.round((shown / total) * 100)}%
        </p>
      )}
    </div>
  );
}

/** Some blocks in a row. Those that are closed never change, so a group changes only where it grows. */
const Group = memo(
  function Group({
    blocks,
    from,
    to,
    open,
    openAs,
    arriving,
  }: {
    blocks: readonly Block[];
    from: number;
    to: number;
    /** The text of the block that is still open, where it stands at the end of this group. */
    open: string | undefined;
    openAs: Block | undefined;
    arriving: boolean;
  }) {
    return (
      <div className={styles.group}>
        {blocks.slice(from, to).map((block, at) => (
          <Part key={from + at} {...block} next={blocks[from + at + 1]?.joins ?? openAs?.joins} whole={blocks} />
        ))}
        {open !== undefined && openAs && (
          <Part key={blocks.length} {...openAs} text={open} whole={blocks} arriving={arriving} />
        )}
      </div>
    );
  },
  (before, now) =>
    before.from === now.from &&
    before.to === now.to &&
    before.open === now.open &&
    before.blocks === now.blocks &&
    (now.open === undefined || before.arriving === now.arriving),
);

/** One block. What goes wrong with it stays within it. */
const Part = memo(function Part({
  kind,
  text,
  joins,
  fence,
  next,
  whole,
  arriving = false,
}: Block & {
  /** How the block after it goes on from it. */
  next?: Block["joins"];
  /** All blocks, for what copies a fence that was cut. */
  whole: readonly Block[];
  arriving?: boolean;
}) {
  const why = useMemo(() => (kind === "code" ? undefined : tooMuch(text)), [kind, text]);
  const isLine = !why && (joins === "line" || next === "line");
  return (
    <div className={styles.part} data-joins={joins} data-line={isLine || undefined}>
      <Fallible what="this part" otherwise={<AsWritten text={text} why="it could not be read" />}>
        {kind === "code" ? (
          <FencePart text={text} isFirst={joins === "no"} fence={fence ?? 0} whole={whole} />
        ) : why ? (
          <AsWritten text={text} why={joins === "no" ? why : undefined} />
        ) : (
          <Read text={text} arriving={arriving} />
        )}
      </Fallible>
    </div>
  );
});

function Read({ text, arriving }: { text: string; arriving: boolean }) {
  const most = arriving ? colourful.arriving : colourful.most;
  const isColoured = text.length <= most && /`{3}|~{3}/.test(text);
  return (
    <ReactMarkdown
      remarkPlugins={[remarkGfm, plainNotes, shallow]}
      rehypePlugins={isColoured ? [rehypeHighlight] : []}
      components={components}
    >
      {text}
    </ReactMarkdown>
  );
}

/** A text as it was written, in pieces that the browser can lay out one by one; said once for parts of one thing. */
function AsWritten({ text, why }: { text: string; why: string | undefined }) {
  return (
    <div className={styles.written}>
      {why && <small>Shown as written: {why}.</small>}
      <span className={styles.piece}>{text}</span>
    </div>
  );
}

/** Characters of a plain text that are one element of the page. */
const pieceSize = 4_000;
/** Pieces that are shown until more are asked for. */
const shownPieces = 50;

/** Text without any marks, of whatever length. */
export function PlainText({ text }: { text: string }): ReactNode {
  const [most, setMost] = useState(shownPieces);
  if (text.length <= pieceSize) return <span className={styles.plain}>{text}</span>;
  const count = Math.ceil(text.length / pieceSize);
  return (
    <>
      {Array.from({ length: Math.min(count, most) }, (_, at) => (
        <span key={at} className={styles.piece}>
          {text.slice(at * pieceSize, (at + 1) * pieceSize)}
        </span>
      ))}
      {count > most && (
        <button type="button" className="link" onClick={() => setMost(most * 4)}>
          show more: {figure(text.length - most * pieceSize)} characters are left
        </button>
      )}
    </>
  );
}

const components: ComponentProps<typeof ReactMarkdown>["components"] = {
  a: ({ href, children }) => (
    <a href={href} target="_blank" rel="noopener noreferrer">
      {children}
    </a>
  ),
  img: ({ alt, src }) => <span className={styles.picture}>[picture: {alt || String(src ?? "")}]</span>,
  pre: ({ children }) => <Fence>{children}</Fence>,
  table: ({ children }) => (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className={styles.scroll} tabIndex={0} aria-label="Table">
      <table>{children}</table>
    </section>
  ),
};

/** A fence that was cut: its parts stand without a gap, and are copied as one. */
function FencePart({
  text,
  isFirst,
  fence,
  whole,
}: {
  text: string;
  isFirst: boolean;
  fence: number;
  whole: readonly Block[];
}) {
  const copied = () => whole.flatMap((each) => (each.fence === fence ? [each.text] : [])).join("");
  return (
    <Fence copied={isFirst ? copied : null}>
      <code>{text}</code>
    </Fence>
  );
}

function Fence({ children, copied }: { children: ReactNode; copied?: (() => string) | null }) {
  const code = useRef<HTMLPreElement>(null);
  return (
    <div className={styles.fence}>
      {copied !== null && <CopyWord text={() => copied?.() ?? code.current?.textContent ?? ""} />}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <pre ref={code} tabIndex={0}>
        {children}
      </pre>
    </div>
  );
}
