import { defineConfig } from "@playwright/test";
import { browserArguments, findBrowser } from "./scripts/find-browser.mjs";

export default defineConfig({
  // through a page, and over HTTP alone
  testMatch: ["e2e/**/*.spec.ts", "api/**/*.spec.ts"],
  outputDir: "test-results/browser",
  fullyParallel: false,
  workers: 2,
  forbidOnly: Boolean(process.env.CI),
  maxFailures: 10,
  timeout: 180_000,
  expect: { timeout: 20_000 },
  reporter: [["list"], ["json", { outputFile: "test-results/browser.json" }]],
  use: {
    // what can't be done fails then, and not at the end of its test
    actionTimeout: 30_000,
    navigationTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: findBrowser(), args: browserArguments },
  },
});
