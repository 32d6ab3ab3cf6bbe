import { Session } from "node:inspector/promises";

/** Loaded into the application before all else: tells the benchmark, when asked, what its heap holds without garbage. */
const session = new Session();
session.connect();
process.on("message", async () => {
  await session.post("HeapProfiler.collectGarbage");
  process.send?.(process.memoryUsage().heapUsed);
});
process.channel?.unref();
