// Begins the process in which documents are read: it runs its file, and ends it where it needs too much.
import { getPriority, setPriority } from "node:os";
import { Worker } from "node:worker_threads";

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

const [, , file] = process.argv;
if (file.endsWith(".ts")) (await import("tsx/esm/api")).register();
await import(file);
