import { useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Block } from "./cut";

/** Milliseconds that one slice should take. */
const aim = 30;
/** What a block weighs beside its characters: by itself, for each line and cell, and where it is coloured. */
const weights = { block: 200, line: 60, cell: 40, code: 1_500 };
/** Weight that all texts may show at once before anything waits. */
const atOnce = 5_000;
/** Blocks that a text may grow by without waiting: what a stream brings in a moment. */
const trickle = 6;

let allowance = atOnce;
/** Weight that is shown in a millisecond, as measured; it begins with what the heaviest blocks take. */
let speed = 60;
const waiting: (() => void)[] = [];
let isRunning = false;

const weighed = new WeakMap<Block, number>();

function weightOf(block: Block): number {
  const known = weighed.get(block);
  if (known !== undefined) return known;
  const { kind, text } = block;
  const marks = kind === "code" ? 0 : text.split("\n").length * weights.line + text.split("|").length * weights.cell;
  const weight = text.length + weights.block + marks + (kind === "text" && text.includes("```") ? weights.code : 0);
  weighed.set(block, weight);
  return weight;
}

/** How many blocks after some weigh so much together, at least one. */
function countFor(weight: number, blocks: readonly Block[], from: number): number {
  let left = weight;
  let count = 0;
  for (let at = from; at < blocks.length && (count === 0 || left > 0); at++, count++)
    left -= weightOf(blocks[at] as Block);
  return count;
}

/** Takes from what may be shown in this moment, which all texts share. */
function allowed(blocks: readonly Block[]): number {
  if (allowance === atOnce)
    setTimeout(() => {
      allowance = atOnce;
    }, 0);
  if (allowance <= 0) return 0;
  const count = countFor(allowance, blocks, 0);
  for (const block of blocks.slice(0, count)) allowance -= weightOf(block);
  return count;
}

function enqueue(slice: () => void): () => void {
  waiting.push(slice);
  if (!isRunning) {
    isRunning = true;
    setTimeout(run, 0);
  }
  return () => {
    const at = waiting.indexOf(slice);
    if (at >= 0) waiting.splice(at, 1);
  };
}

function run(): void {
  waiting.shift()?.();
  if (waiting.length > 0) setTimeout(run, 0);
  else isRunning = false;
}

/** Shows a slice, and learns from how long that took; what a slice shows at most doubles from one to the next. */
function shown(weight: number, show: () => void): void {
  const began = performance.now();
  flushSync(show);
  const taken = Math.max(performance.now() - began, 1);
  speed = Math.max(Math.min(weight / taken, speed * 2), 10);
}

/**
 * How many of a text's blocks are to be shown now. A long text is shown in slices, each of them a task of
 * its own, so that the page never stands still.
 * @param hasOpen whether one more block follows, which is still open
 */
export function useSlices(blocks: readonly Block[], hasOpen: boolean): number {
  const total = blocks.length + (hasOpen ? 1 : 0);
  const [reached, setReached] = useState(() => allowed(blocks));
  const now = useRef({ count: reached, total });
  // what comes while all is shown needs no slice of its own
  const wasWhole = now.current.count >= now.current.total;
  const count =
    wasWhole && total - now.current.count <= trickle ? total : Math.min(Math.max(reached, now.current.count), total);
  now.current = { count, total };
  useEffect(() => {
    if (count >= total) return;
    return enqueue(() => {
      const next = count + Math.max(countFor(speed * aim, blocks, count), 1);
      const weight = blocks.slice(count, next).reduce((sum, block) => sum + weightOf(block), 0);
      shown(weight, () => setReached(Math.min(next, total)));
    });
  }, [blocks, count, total]);
  return count;
}
