import { spawnSync } from "node:child_process";
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join, resolve } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { floors, floorsFile, overridesOfFloors } from "./floors.mjs";

/** Every folder, with what it may not import and what it may. */
const all = floors.flatMap((folders, level) =>
  folders.map((folder) => {
    const beside = floors
      .slice(0, level + 1)
      .flat()
      .filter((each) => each !== folder);
    const below = floors.slice(level + 1).flat();
    return { folder, refused: [...beside.map((each) => `${each}/anything`), "home", "boot"], below };
  }),
);

/** How many imports the linter refuses, by file. */
const refusals = new Map<string, number>();
let house = "";

beforeAll(() => {
  house = mkdtempSync(join(tmpdir(), "finch-floors-"));
  copyFileSync(floorsFile, join(house, floorsFile));
  writeFileSync(join(house, "biome.json"), JSON.stringify({ extends: [`./${floorsFile}`] }));
  const write = (path: string, imports: string[]) => {
    mkdirSync(dirname(join(house, path)), { recursive: true });
    const lines = imports.map((each, at) => `import { a${at} } from "../${each}";\nexport const b${at} = a${at};\n`);
    writeFileSync(join(house, path), lines.join(""));
  };
  for (const { folder, refused, below } of all) {
    write(`src/server/${folder}/up.ts`, refused);
    write(
      `src/server/${folder}/down.ts`,
      below.map((each) => `${each}/anything`),
    );
  }
  const args = [resolve("node_modules/.bin/biome"), "lint", "--reporter=json", "--max-diagnostics=none", "src"];
  const { stdout } = spawnSync(process.execPath, args, { cwd: house, encoding: "utf8" });
  const { diagnostics } = JSON.parse(stdout) as { diagnostics: { category: string; location: { path: string } }[] };
  for (const { category, location } of diagnostics)
    if (category === "lint/style/noRestrictedImports")
      refusals.set(location.path, (refusals.get(location.path) ?? 0) + 1);
});
afterAll(() => rmSync(house, { recursive: true, force: true }));

describe("the floors of the server", () => {
  it("hold every folder of it once, and the linter has them as they are", () => {
    const folders = readdirSync("src/server", { withFileTypes: true }).filter((each) => each.isDirectory());
    const named = folders.map(({ name }) => name).filter((name) => name !== "test");
    expect(floors.flat().sort()).toEqual(named.sort());
    expect(JSON.parse(readFileSync(floorsFile, "utf8"))).toEqual({ overrides: overridesOfFloors() });
    expect(JSON.parse(readFileSync("biome.json", "utf8"))).toMatchObject({ extends: [`./${floorsFile}`] });
  });

  it.each(all)("let $folder import nothing of what is beside or above it, and what is below", ({ folder, refused }) => {
    expect(refusals.get(`src/server/${folder}/up.ts`)).toBe(refused.length);
    expect(refusals.get(`src/server/${folder}/down.ts`)).toBeUndefined();
  });
});
