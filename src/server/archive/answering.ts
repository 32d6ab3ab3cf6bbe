import { parentPort } from "node:worker_threads";
import { carried } from "./carried-error";
import type { Methods, ThreadAnswer, ThreadCall } from "./thread";

/** Answers the calls that this thread gets, one after the other unless a method waits. */
export function answerCalls(methods: Methods): void {
  const port = parentPort;
  if (!port) throw new Error("This runs in a thread of its own.");
  port.on("message", async ({ id, method, input }: ThreadCall) => {
    const tell = (answer: ThreadAnswer) => port.postMessage(answer);
    try {
      const found = methods[method];
      if (!found) throw new Error(`There is no method ${method}.`);
      tell({ id, value: await found(input) });
    } catch (error) {
      tell({ id, error: carried(error) });
    }
  });
}
