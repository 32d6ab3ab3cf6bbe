// Begins a thread: where its file is TypeScript, it teaches the thread to read that, and runs it.
import { getPriority, setPriority } from "node:os";
import { workerData } from "node:worker_threads";

// what is done in a thread takes long anyway, and gives way to replies; elsewhere a priority is the whole process's
if (process.platform === "linux") setPriority(Math.max(getPriority(), 5));

const { file } = workerData;
if (file.endsWith(".ts")) (await import("tsx/esm/api")).register();
await import(file);
