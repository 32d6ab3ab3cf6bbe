import { Session } from "node:inspector/promises";
import { monitorEventLoopDelay } from "node:perf_hooks";

/** What the application is asked for: to watch its event loop, for how long that stood at most since, what its heap holds. */
export type Asked = "watch" | "stall" | "heap";

/**
 * Loaded into the application before all else. When asked, it tells the benchmark what its heap holds without garbage,
 * or for how long, in milliseconds, its event loop stood at most since it was to be watched: only so long, since
 * watching takes as much of the processor as a few streams.
 */
const session = new Session();
session.connect();
const delay = monitorEventLoopDelay({ resolution: 1 });
process.on("message", async (asked: Asked) => {
  if (asked === "watch") {
    delay.reset();
    delay.enable();
    process.send?.(0);
  } else if (asked === "stall") {
    delay.disable();
    process.send?.(delay.max / 1e6);
  } else {
    await session.post("HeapProfiler.collectGarbage");
    process.send?.(process.memoryUsage().heapUsed);
  }
});
process.channel?.unref();
