// Begins a thread: teaches it to read TypeScript, as the process that it belongs to can, and runs its file.
import { getPriority, setPriority } from "node:os";
import { workerData } from "node:worker_threads";
import { register } from "tsx/esm/api";

// what is done in a thread takes long anyway, and gives way to replies; elsewhere a priority is the whole process's
if (process.platform === "linux") setPriority(Math.max(getPriority(), 5));

register();
await import(new URL(workerData.entry, import.meta.url).href);
