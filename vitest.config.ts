import { fileURLToPath } from "node:url";
import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": fileURLToPath(new URL("./src", import.meta.url)) } },
  test: {
    // each worker loads what the tests share once; no test leaves anything behind
    pool: "threads",
    isolate: false,
    maxWorkers: 2,
    testTimeout: 30_000,
    // what is waited for may come from a thread that is still starting, on a machine with other work
    expect: { poll: { timeout: 15_000 } },
    setupFiles: ["scripts/property-seed.ts"],
    include: ["src/**/*.test.{ts,tsx}", "benchmarks/**/*.test.ts", "scripts/**/*.test.ts"],
  },
});
