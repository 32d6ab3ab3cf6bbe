import { memo, type ReactNode, use, useMemo, useRef, useState } from "react";
import { Fallible } from "../Fallible";
import { count as figure } from "../format";
import { type Block, Cutter } from "./cut";
import { Dressed } from "./dress";
import { cutFenceOf } from "./fences";
import styles from "./Markdown.module.css";
import type { Mark, Marking } from "./marks";
import { Shown } from "./Shown";
import { Stretches } from "./Stretches";
import { useSlices } from "./slices";
import { linesOf, shownWords, treeOf } from "./tree";

/** Blocks that are one element of the page: the browser lays out only those that are near. */
const groupSize = 24;
/** Groups that are shown from the beginning and from the end of a text that is longer than both. */
const shownGroups = 120;
const none: readonly Mark[] = [];

/** How all blocks of a text are shown. */
interface Manner {
  /** Whether more of the text may come. */
  isArriving?: boolean;
  /** Whether the words are shown alone, without any marks of Markdown. */
  isPlain?: boolean;
  /** What is marked in each block. */
  marking?: Marking;
}

/**
 * A model's Markdown, which is not trusted, on the bench and on the visitors' page. It is bounded in depth, size and
 * time: it is cut as it comes, so that a long text costs no more at its end than at its beginning, and shown in slices.
 * What can't be read within bounds is shown as it was written.
 */
export function Markdown({ text, ...manner }: Manner & { text: string }) {
  const { isArriving = false } = manner;
  const dress = use(Dressed);
  const cutter = useRef<Cutter>(undefined);
  cutter.current ??= new Cutter();
  cutter.current.take(text);
  const { closed, open } = cutter.current;
  const newest = useRef(open);
  newest.current = open;
  const all = useRef(() => {
    const { current: cut } = cutter;
    return newest.current ? [...(cut?.closed ?? []), newest.current] : (cut?.closed ?? []);
  });
  const [showsAll, setShowsAll] = useState(false);
  const total = closed.length + (open ? 1 : 0);
  const shown = useSlices(closed, open !== undefined);
  const groups = Math.ceil(shown / groupSize);
  const isLong = !showsAll && groups > 2 * shownGroups;
  const group = (at: number) => {
    const to = Math.min((at + 1) * groupSize, closed.length, shown);
    return (
      <Group
        key={at}
        {...manner}
        blocks={closed}
        all={all.current}
        from={at * groupSize}
        to={to}
        open={shown === total && at === groups - 1 ? open : undefined}
        next={to === closed.length ? open?.joins : undefined}
      />
    );
  };
  const range = (from: number, to: number) => Array.from({ length: to - from }, (_, at) => group(from + at));
  return (
    <div
      className={`${styles.markdown} ${dress.text}`}
      data-arriving={isArriving || undefined}
      aria-busy={shown < total}
      dir="auto"
    >
      {/* one list of groups, whatever is left out of it: none of them is made anew */}
      {isLong
        ? [
            ...range(0, shownGroups),
            <p key="left out" className={dress.note}>
              {figure((groups - 2 * shownGroups) * groupSize)} parts in the middle are left out.{" "}
              <button type="button" className={dress.action} onClick={() => setShowsAll(true)}>
                show them
              </button>
            </p>,
            ...range(groups - shownGroups, groups),
          ]
        : range(0, groups)}
      {shown < total && <p className={dress.note}>Showing the rest: {Math.round((shown / total) * 100)}%</p>}
    </div>
  );
}

interface GroupProps extends Manner {
  blocks: readonly Block[];
  /** Gives all blocks of the text, for what knows of more than its own. */
  all: () => readonly Block[];
  from: number;
  to: number;
  /** The block that is still open, where it stands at the end of this group. */
  open: Block | undefined;
  /** How the open block goes on from the last that is closed. */
  next: Block["joins"] | undefined;
}

/** Some blocks in a row. Those that are closed never change, so a group changes only where it grows. */
const Group = memo(function Group({ blocks, from, to, open, next, all, ...manner }: GroupProps) {
  return (
    <div className={styles.group}>
      {blocks.slice(from, to).map((block, at) => (
        <Part
          key={from + at}
          {...block}
          {...manner}
          isArriving={block.kind === "code" && manner.isArriving}
          at={from + at}
          next={blocks[from + at + 1]?.joins ?? next}
          all={all}
        />
      ))}
      {open && <Part key={blocks.length} {...open} {...manner} at={blocks.length} all={all} />}
    </div>
  );
});

interface PartProps extends Block, Manner {
  /** Its place among the blocks of its text. */
  at: number;
  /** How the block after it goes on from it. */
  next?: Block["joins"];
  all: () => readonly Block[];
}

/** One block. What goes wrong with it stays within it. */
const Part = memo(function Part({ at, next, all, isArriving = false, isPlain = false, marking, ...block }: PartProps) {
  const { kind, text, joins, fence, language, after } = block;
  const tree = useMemo(() => treeOf({ kind, text, language }), [kind, text, language]);
  const marks = useMemo(
    () => marking?.(tree.kind === "read" ? shownWords(tree.nodes) : text, at) ?? none,
    [marking, tree, text, at],
  );
  const cut = useMemo(
    () => cutFenceOf({ kind, text, joins, fence, after }, all),
    [kind, text, joins, fence, after, all],
  );
  const isLine = tree.kind === "read" && (joins === "line" || next === "line");
  return (
    <div className={styles.part} data-joins={joins} data-line={isLine || undefined}>
      <Fallible what="this part" otherwise={<AsWritten text={text} marks={none} why="it could not be read" />}>
        {tree.kind === "written" ? (
          <AsWritten text={text} marks={marks} why={joins === "no" ? tree.why : undefined} />
        ) : isPlain ? (
          <Lines lines={linesOf(tree.nodes)} />
        ) : (
          <Shown nodes={tree.nodes} marks={marks} isOpen={isArriving} cut={cut} />
        )}
      </Fallible>
    </div>
  );
});

/** A text as it was written, in pieces that the browser can lay out one by one; said once for parts of one thing. */
function AsWritten({ text, marks, why }: { text: string; marks: readonly Mark[]; why: string | undefined }) {
  const dress = use(Dressed);
  return (
    <div className={dress.written}>
      {why && dress.note && <small className={dress.note}>Shown as written: {why}.</small>}
      <span className={styles.piece}>
        <Stretches text={text} marks={marks} />
      </span>
    </div>
  );
}

/** Words alone, a line for each part. */
function Lines({ lines }: { lines: readonly string[] }): ReactNode {
  const dress = use(Dressed);
  return lines.map((line, at) => (
    <p key={at} className={dress.written}>
      {line}
    </p>
  ));
}
