import type { Fact } from "@/core/comparing/facts/facts";

/** Texts whose facts are kept. */
const mostKept = 60;

let worker: Worker | undefined;
/** Who waits for an answer, in the order in which they asked. */
const waiting: ((found: Fact[]) => void)[] = [];
const kept = new Map<string, Promise<Fact[]>>();

/** The facts of a text, found in a worker, once for each text. Where the worker can't be had there are none. */
export function findFacts(text: string): Promise<Fact[]> {
  const found = kept.get(text) ?? ask(text);
  kept.delete(text);
  kept.set(text, found);
  for (const oldest of [...kept.keys()].slice(0, -mostKept)) kept.delete(oldest);
  return found;
}

function ask(text: string): Promise<Fact[]> {
  worker ??= begin();
  const { postMessage } = worker;
  return new Promise((resolve) => {
    waiting.push(resolve);
    postMessage.call(worker, text);
  });
}

function begin(): Worker {
  const begun = new Worker(new URL("./facts.worker.ts", import.meta.url), { type: "module" });
  begun.onmessage = ({ data }: MessageEvent<Fact[]>) => waiting.shift()?.(data);
  begun.onerror = (error) => {
    console.error(`Facts could not be found: ${error.message}`);
    begun.terminate();
    worker = undefined;
    kept.clear();
    for (const resolve of waiting.splice(0)) resolve([]);
  };
  return begun;
}
