// Chromium for the tests: Debian's package, or whatever CHROMIUM names.
import { existsSync } from "node:fs";
import { getuid } from "node:process";

const places = ["/usr/bin/chromium", "/usr/bin/chromium-browser"];

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
