import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pino from "pino";
import { openFolder } from "../boot";
import type { Home } from "../home";

/** A data folder for one test, with all that a process has one of; `remove` takes it away. */
export function testFolder(): { home: Home; folder: string; remove: () => void } {
  const folder = mkdtempSync(join(tmpdir(), "finch-test-"));
  const home = openFolder(folder, () => pino({ level: "silent" }));
  return {
    home,
    folder,
    remove() {
      home.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
