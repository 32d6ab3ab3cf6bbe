import { useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { useIsHydrated } from "../use-is-hydrated";
import type { Block } from "./cut";
import { countFor, weightOf } from "./weights";

/** Milliseconds that one slice should take. */
const aim = 30;
/** Weight that all texts may show at once before anything waits. */
const atOnce = 5_000;
/** Blocks that a text may grow by without waiting: what a stream brings in a moment. */
const trickle = 6;

let allowance = atOnce;
/** Weight that is shown in a millisecond, as measured; it begins with what the heaviest blocks take. */
let speed = 60;
const waiting: (() => void)[] = [];
let isRunning = false;

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
  // what the server sent is there already
  const isHydrated = useIsHydrated();
  const [reached, setReached] = useState(() => (isHydrated ? allowed(blocks) : total));
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
