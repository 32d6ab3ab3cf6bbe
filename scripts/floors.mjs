/**
 * The floors of the server, from the top down: a folder knows those below it, and none beside or above it. From these
 * the linter gets a rule for every folder: `node scripts/floors.mjs` writes them into biome.floors.json.
 */
import { writeFileSync } from "node:fs";

export const floorsFile = "biome.floors.json";

export const floors = [
  ["http"],
  ["answers"],
  ["jobs"],
  ["bundles"],
  ["comparing", "checks"],
  ["trials"],
  ["replies", "tending"],
  ["summaries", "probing"],
  ["live"],
  ["entrance", "archive"],
  ["guards"],
  ["apps", "sources", "tools"],
  ["dispatches"],
  ["conversations", "providers", "recordings", "spend"],
  ["making"],
  ["exchange"],
  ["files"],
  ["database"],
  ["security"],
  ["ground"],
];

/** What nothing in the server imports. */
const outside = [
  "react",
  "react-dom",
  "next",
  "next/**",
  "antd",
  "antd/**",
  "@/ui/**",
  "@/app/**",
  "@/standins/**",
  "**/ui/**",
  "**/standins/**",
];

/** Files at the top of the server: they put all of it together. */
const tops = ["boot", "home"];

/** The rules for the server, as overrides of the linter. */
export function overridesOfFloors() {
  return [
    override(["src/server/**", "!**/*.test.ts"], outside, "The server imports only contract and core."),
    ...floors.flatMap((folders, level) =>
      folders.map((folder) => {
        const others = floors
          .slice(0, level + 1)
          .flat()
          .filter((each) => each !== folder);
        return override(
          [`src/server/${folder}/**`, "!**/*.test.ts", "!**/test/**"],
          [
            ...outside,
            ...tops.flatMap((top) => [`../${top}`, `../../${top}`, `@/server/${top}`]),
            ...others.flatMap((each) => [`../${each}/**`, `../../${each}/**`, `@/server/${each}/**`]),
          ],
          `A folder knows those below it: ${folder} stands on ${below(level).join(", ") || "nothing"}.`,
        );
      }),
    ),
  ];
}

/** @param {number} level */
function below(level) {
  return floors.slice(level + 1).flat();
}

/** @param {string[]} includes @param {string[]} group @param {string} message */
function override(includes, group, message) {
  return {
    includes,
    linter: {
      rules: {
        style: { noRestrictedImports: { level: "error", options: { patterns: [{ group, message }] } } },
      },
    },
  };
}

if (process.argv[1] === import.meta.filename)
  writeFileSync(floorsFile, `${JSON.stringify({ overrides: overridesOfFloors() }, null, 2)}\n`);
