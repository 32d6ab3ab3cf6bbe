// `npm run module`: the module for front ends as a package that can be installed, in one file.
import { spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { buildModule } from "./module.mjs";

const { version } = JSON.parse(readFileSync("package.json", "utf8"));
const folder = mkdtempSync(join(tmpdir(), "finch-module-"));
await buildModule(folder);
const about = {
  name: "unruly-finch-talk",
  version,
  description: "A conversation with an app of Unruly Finch, for front ends of any kind.",
  type: "module",
  exports: { ".": { types: "./module.d.ts", default: "./module.js" } },
  types: "./module.d.ts",
  sideEffects: false,
};
writeFileSync(join(folder, "package.json"), `${JSON.stringify(about, null, 2)}\n`);
const to = resolve(process.argv[2] ?? ".");
mkdirSync(to, { recursive: true });
const { status } = spawnSync("npm", ["pack", "--silent", "--pack-destination", to], { cwd: folder, stdio: "inherit" });
rmSync(folder, { recursive: true });
process.exit(status ?? 1);
