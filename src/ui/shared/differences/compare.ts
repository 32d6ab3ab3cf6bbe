import type { Texts } from "@/core/comparing/differences";
import { type Differences, sameThroughout } from "@/core/comparing/parts";
import type { Differing } from "../markdown/differing";

/** What differs in two texts as they are written; or in what the texts of two messages show. */
export type Question =
  | ({ kind: "words" } & Texts)
  | { kind: "shown"; before: readonly string[]; after: readonly string[]; isMarkdown: boolean };

/** What is found for a kind of question. */
export type Answer<Q extends Question> = Q extends { kind: "words" } ? Differences : Differing;

/** Pairs whose differences are kept. */
const mostKept = 12;

let worker: Worker | undefined;
/** Who waits for an answer, in the order in which they asked. */
const waiting: ((found: Differences | Differing) => void)[] = [];
const kept = new Map<string, Promise<Differences | Differing>>();

/** What differs, found in a worker unless nothing does, once for each question. Where the worker can't be had, that all does is all that is told. */
export function compare<Q extends Question>(question: Q): Promise<Answer<Q>> {
  const key = JSON.stringify(question);
  const found = kept.get(key) ?? ask(question);
  kept.set(key, found);
  for (const oldest of [...kept.keys()].slice(0, -mostKept)) kept.delete(oldest);
  return found as Promise<Answer<Q>>;
}

function ask(question: Question): Promise<Differences | Differing> {
  if (question.kind === "words" && question.before === question.after)
    return Promise.resolve(sameThroughout(question.before));
  worker ??= begin();
  const { postMessage } = worker;
  return new Promise((resolve) => {
    waiting.push(resolve);
    postMessage.call(worker, question);
  });
}

function begin(): Worker {
  const begun = new Worker(new URL("./differences.worker.ts", import.meta.url), { type: "module" });
  begun.onmessage = ({ data }: MessageEvent<Differences | Differing>) => waiting.shift()?.(data);
  begun.onerror = (error) => {
    console.error(`Texts could not be compared: ${error.message}`);
    begun.terminate();
    worker = undefined;
    kept.clear();
    for (const resolve of waiting.splice(0)) resolve({ kind: "throughout" });
  };
  return begun;
}
