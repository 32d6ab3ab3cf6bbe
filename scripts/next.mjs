// `node scripts/next.mjs build`: Next's own command line, which tells nobody that it was used.
import { spawnSync } from "node:child_process";
import { buildModule } from "./module.mjs";
import { buildProcesses } from "./processes.mjs";

if (process.argv[2] === "build") await Promise.all([buildModule(), buildProcesses()]);
const { status } = spawnSync(process.execPath, ["node_modules/next/dist/bin/next", ...process.argv.slice(2)], {
  stdio: "inherit",
  env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1" },
});
process.exit(status ?? 1);
