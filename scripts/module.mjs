// The module for front ends, as it is served: one file of JavaScript, and its types.
import { spawnSync } from "node:child_process";
import { mkdirSync, renameSync } from "node:fs";

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
    format: "esm",
    target: "es2022",
    minify: true,
    legalComments: "none",
  });
  const types = ["--ignoreConfig", "--declaration", "--emitDeclarationOnly", "--target", "es2023", "--outDir", folder];
  const compile = ["node_modules/typescript/bin/tsc", source, ...types, "--module", "esnext", "--skipLibCheck"];
  const { status } = spawnSync(process.execPath, compile, { stdio: "inherit" });
  if (status !== 0) process.exit(status ?? 1);
  renameSync(`${folder}/talk.d.ts`, `${folder}/module.d.ts`);
}
