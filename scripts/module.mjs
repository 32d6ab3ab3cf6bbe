// The module for front ends, as it is served: one file of JavaScript, and its types.
import { spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const source = "src/module/talk.ts";
/**
 * Makes both files anew; ends this process where that fails.
 * @param folder that they are written into
 */
export async function buildModule(folder = "public/talk") {
  const { build } = await import("esbuild");
  mkdirSync(folder, { recursive: true });
  await build({
    entryPoints: [source],
    outfile: `${folder}/module.js`,
    bundle: true,
    format: "esm",
    target: "es2022",
    minify: true,
    legalComments: "none",
  });
  const declared = mkdtempSync(join(tmpdir(), "finch-types-"));
  const types = [
    "--ignoreConfig",
    "--declaration",
    "--emitDeclarationOnly",
    "--target",
    "es2023",
    "--outDir",
    declared,
  ];
  const compile = ["node_modules/typescript/bin/tsc", source, ...types, "--module", "esnext", "--skipLibCheck"];
  const { status } = spawnSync(process.execPath, [...compile, "--moduleResolution", "bundler"], { stdio: "inherit" });
  if (status !== 0) process.exit(status ?? 1);
  const read = (name) => readFileSync(join(declared, `${name}.d.ts`), "utf8");
  // the types stand in one file, as what they are the types of does
  const own = read("talk").replace(/^(?:import|export) type .* from "\.\/types";\n/gm, "");
  writeFileSync(`${folder}/module.d.ts`, `${own}\n${read("types")}`);
  rmSync(declared, { recursive: true });
}
