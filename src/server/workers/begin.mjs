// Begins a thread: teaches it to read TypeScript, as the process that it belongs to can, and runs its file.
import { workerData } from "node:worker_threads";
import { register } from "tsx/esm/api";

register();
await import(new URL(workerData.entry, import.meta.url).href);
