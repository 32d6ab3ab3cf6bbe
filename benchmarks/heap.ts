import { Session } from "node:inspector/promises";
import { monitorEventLoopDelay } from "node:perf_hooks";

/**
 * Loaded into the application before all else. When asked, it tells the benchmark what its heap holds without garbage,
 * or for how long, in milliseconds, its event loop stood at most since it was asked before.
 */
const session = new Session();
session.connect();
const delay = monitorEventLoopDelay({ resolution: 1 });
delay.enable();
process.on("message", async (asked: "heap" | "stall") => {
  if (asked === "stall") {
    process.send?.(delay.max / 1e6);
    delay.reset();
    return;
  }
  await session.post("HeapProfiler.collectGarbage");
  process.send?.(process.memoryUsage().heapUsed);
});
process.channel?.unref();
