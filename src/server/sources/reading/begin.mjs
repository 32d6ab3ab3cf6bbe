// Begins the process in which documents are read: it teaches it to read TypeScript, and ends it where it needs too much.
import { getPriority, setPriority } from "node:os";
import { Worker } from "node:worker_threads";
import { register } from "tsx/esm/api";

// what is read waits for nobody
setPriority(Math.max(getPriority(), 10));

// a thread of its own, since whatever takes all memory also keeps this one from looking
const watch = `
  const { workerData } = require("node:worker_threads");
  setInterval(() => {
    if (process.memoryUsage.rss() > workerData) process.kill(process.pid, "SIGKILL");
  }, 25);
`;
new Worker(watch, { eval: true, workerData: Number(process.env.FINCH_READING_BYTES) }).unref();

register();
await import("./child.ts");
