import type { Differences, Texts } from "@/core/comparing/differences";

/** Pairs whose differences are kept. */
const mostKept = 12;

let worker: Worker | undefined;
/** Who waits for an answer, in the order in which they asked. */
const waiting: ((found: Differences) => void)[] = [];
const kept = new Map<string, Promise<Differences>>();

/** What differs between two texts: made in a worker, once for a pair. Where the worker can't be had, that they differ is all that is told. */
export function compare(texts: Texts): Promise<Differences> {
  const key = JSON.stringify([texts.isExact ?? false, texts.before, texts.after]);
  const known = kept.get(key);
  if (known) return known;
  const found = ask(texts);
  kept.set(key, found);
  for (const oldest of [...kept.keys()].slice(0, -mostKept)) kept.delete(oldest);
  return found;
}

function ask(texts: Texts): Promise<Differences> {
  worker ??= begin();
  const { postMessage } = worker;
  return new Promise((resolve) => {
    waiting.push(resolve);
    postMessage.call(worker, texts);
  });
}

function begin(): Worker {
  const begun = new Worker(new URL("./differences.worker.ts", import.meta.url), { type: "module" });
  begun.onmessage = ({ data }: MessageEvent<Differences>) => waiting.shift()?.(data);
  begun.onerror = (error) => {
    console.error(`Texts could not be compared: ${error.message}`);
    begun.terminate();
    worker = undefined;
    kept.clear();
    for (const resolve of waiting.splice(0)) resolve({ kind: "throughout" });
  };
  return begun;
}
