// `npm test`: installs what is missing, then lint, types, unit tests, build, and Playwright on the
// built application with the real stand-in. The last line says how many tests passed and failed.
import { spawnSync } from "node:child_process";
import { mkdirSync, readFileSync, rmSync } from "node:fs";
import { browserPackage, findBrowser } from "./find-browser.mjs";
import { build, install, tool } from "./prepare.mjs";

process.env.NEXT_TELEMETRY_DISABLED = "1";

const isRoot = process.getuid?.() === 0;
const hasBrowser = findBrowser() !== undefined;
if (!hasBrowser && !isRoot) {
  console.error(
    `The tests need Chromium: install the package ${browserPackage}, or name one in the variable CHROMIUM.`,
  );
  process.exit(1);
}
/**
 * What is missing of what the tests run, by its command and its package: the browser, and in CI the lightest of
 * them, with the languages that a call is written in.
 */
const wanted =
  process.env.CI && isRoot
    ? [
        [browserPackage, browserPackage],
        ["php", "php-cli"],
        ["ruby", "ruby"],
      ]
    : hasBrowser
      ? []
      : [[browserPackage, browserPackage]];
const missing = wanted.flatMap(([command, name]) =>
  spawnSync(command, ["--version"], { stdio: "ignore" }).status === 0 ? [] : [name],
);
if (missing.length > 0) {
  console.log(`Installing ${missing.join(", ")}.`);
  aptGet("update", "-qq");
  // each alone: one that can't be had keeps none of the others
  for (const name of missing) aptGet("install", "-y", "-qq", name);
  if (findBrowser() === undefined) aptGet("install", "-y", "-qq", "chromium");
}

install();
rmSync("test-results", { recursive: true, force: true });
mkdirSync("test-results");

const totals = { passed: 0, failed: 0 };
step("lint", tool("@biomejs/biome/bin/biome", "check", "."));
step("next's types", tool("next/dist/bin/next", "typegen"));
step("types", tool("typescript/bin/tsc", "--noEmit"));
suite(
  "unit",
  tool("vitest/vitest.mjs", "run", "--reporter=default", "--reporter=json", "--outputFile.json=test-results/unit.json"),
  (report) => [report.numPassedTests, report.numFailedTests],
);
if (totals.failed === 0) {
  await build();
  suite("browser", tool("@playwright/test/cli.js", "test"), ({ stats }) => [
    stats.expected,
    stats.unexpected + stats.flaky,
  ]);
}
console.log(`\n${totals.passed} passed, ${totals.failed} failed`);
process.exit(totals.failed === 0 ? 0 : 1);

function aptGet(...args) {
  spawnSync("apt-get", args, { stdio: "inherit", env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" } });
}

/** Runs one step, which counts as a test of its own. */
function step(name, command) {
  if (succeeds(name, command)) totals.passed += 1;
  else totals.failed += 1;
}

/** Runs a suite and adds up what it reports; one that fails without a failed test, or reports none, has failed. */
function suite(name, command, read) {
  const isFine = succeeds(`${name} tests`, command);
  let [passed, failed] = [0, 0];
  try {
    [passed, failed] = read(JSON.parse(readFileSync(`test-results/${name}.json`, "utf8")));
  } catch {
    console.error(`The ${name} tests left no report.`);
  }
  totals.passed += passed;
  totals.failed += failed > 0 || (isFine && passed > 0) ? failed : 1;
}

function succeeds(name, [command, args]) {
  console.log(`\n— ${name}`);
  return spawnSync(command, args, { stdio: ["ignore", "inherit", "inherit"] }).status === 0;
}
