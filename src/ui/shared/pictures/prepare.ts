import type { PreparedPicture, Preparing } from "./prepared";

let worker: Worker | undefined;
const waiting: ((prepared: PreparedPicture) => void)[] = [];

/**
 * Makes a picture ready to be handed in, in a worker: read by what stands in it, made smaller where it is large, and
 * without what was written about it. What it can't be made of is said in words.
 */
export function preparePicture(preparing: Preparing): Promise<PreparedPicture> {
  worker ??= begin();
  const { postMessage } = worker;
  return new Promise((resolve) => {
    waiting.push(resolve);
    postMessage.call(worker, preparing);
  });
}

function begin(): Worker {
  const begun = new Worker(new URL("./prepare.worker.ts", import.meta.url), { type: "module" });
  begun.onmessage = ({ data }: MessageEvent<PreparedPicture>) => waiting.shift()?.(data);
  begun.onerror = (error) => {
    console.error(`A picture could not be prepared: ${error.message}`);
    begun.terminate();
    worker = undefined;
    for (const resolve of waiting.splice(0))
      resolve({ kind: "wrong", says: "The picture could not be read in this browser." });
  };
  return begun;
}
