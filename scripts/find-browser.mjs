// Chromium for the tests: one of Debian's packages, or whatever CHROMIUM names.
import { existsSync } from "node:fs";
import { getuid } from "node:process";

/** Debian's package of Chromium without a window, which takes half the time of the one with it. */
export const browserPackage = "chromium-headless-shell";

const places = [`/usr/bin/${browserPackage}`, "/usr/bin/chromium", "/usr/bin/chromium-browser"];

/** The path of a Chromium on this machine; undefined where there is none. */
export function findBrowser() {
  return [process.env.CHROMIUM, ...places].find((path) => path && existsSync(path));
}

/** Flags that keep it from looking up hosts, and let root start it. */
export const browserArguments = [
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
  ...(getuid?.() === 0 ? ["--no-sandbox"] : []),
];
