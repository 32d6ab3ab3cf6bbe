import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";

/** Licences that let a package be used in any work, and passed on with it. */
const permissive =
  /^(?:MIT|MIT-0|ISC|0BSD|Apache-2\.0|BSD-2-Clause|BSD-3-Clause|BlueOak-1\.0\.0|Unlicense|CC0-1\.0|CC-BY-4\.0|OFL-1\.1|Python-2\.0|WTFPL|Zlib)$/;

/** Optional binaries of a library that the framework could use for pictures, and does not here. */
const unused = /^node_modules\/@img\//;

interface Lock {
  packages: Record<string, { dev?: boolean; optional?: boolean; license?: string; version: string }>;
}

/** The licences of a package, any of which may be chosen. */
function licencesOf(place: string, locked: string | undefined): string[] {
  const file = join(place, "package.json");
  const own = existsSync(file) ? (JSON.parse(readFileSync(file, "utf8")).license as string | undefined) : undefined;
  const written = own ?? locked ?? "none";
  return written.replace(/[()]/g, "").split(/ OR /);
}

describe("the packages that are used", () => {
  const { packages } = JSON.parse(readFileSync("package-lock.json", "utf8")) as Lock;
  // what only tests and building need is passed on with nothing
  const all = Object.entries(packages).filter(([place, { dev }]) => place !== "" && !dev && !unused.test(place));

  it("have licences that let them be used in any work", () => {
    expect(all.length).toBeGreaterThan(100);
    const others = all.flatMap(([place, { license }]) => {
      const licences = licencesOf(place, license);
      const isPermissive = licences.some((each) => each.split(/ AND /).every((one) => permissive.test(one)));
      return isPermissive ? [] : [`${place}: ${licences.join(" or ")}`];
    });
    expect(others).toEqual([]);
  });

  it("are named in the docs with the reason", () => {
    const { dependencies } = JSON.parse(readFileSync("package.json", "utf8")) as { dependencies: object };
    const docs = readFileSync("docs/architecture.md", "utf8");
    const scopes = Object.keys(dependencies).map((name) =>
      name.replace(/^(@codemirror|@fontsource-variable|@lezer)\/.*/, "$1"),
    );
    expect([...new Set(scopes)].filter((name) => !docs.includes(name))).toEqual([]);
  });
});
