// What runs in Node beside Next, each as one file: started so, nothing has to be translated first.

/** Each process and thread by the name of its file, with what it is made of. */
const entryPoints = {
  serve: "scripts/serve.ts",
  standins: "src/standins/main.ts",
  reader: "src/server/archive/reader.ts",
  writer: "src/server/archive/writer.ts",
  reading: "src/server/sources/reading/child.ts",
};

/** Makes these files anew, in the folder `built`. */
export async function buildProcesses() {
  const { build } = await import("esbuild");
  await build({
    entryPoints,
    outdir: "built",
    outExtension: { ".js": ".mjs" },
    bundle: true,
    // packages stay where they are: some are native, and Next is itself a bundle
    packages: "external",
    platform: "node",
    format: "esm",
    target: "node20",
    sourcemap: true,
    sourcesContent: false,
    logLevel: "warning",
  });
}
