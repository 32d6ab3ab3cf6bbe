import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import type { HasFolder } from "../database/database";
import type { StoredApp } from "./app-store";

/** Characters that a style sheet may have. */
const longest = 100_000;

/** The style sheet that an app's page has beside its own. */
export interface Style {
  text: string;
  /** Where a file goes before the one in the look. */
  file: string;
  isFromFile: boolean;
  /** Another one for another text. */
  version: string;
}

/** The style sheet of an app: the file of the data folder that is named for it, or else what its look holds. */
export function styleOf({ folder }: HasFolder, { slug, look }: StoredApp): Style {
  const file = join(folder, "styles", `${slug}.css`);
  const written = read(file);
  const text = (written ?? look.style).slice(0, longest);
  const version = createHash("sha256").update(text).digest("base64url").slice(0, 12);
  return { text, file, isFromFile: written !== undefined, version };
}

function read(file: string): string | undefined {
  try {
    return readFileSync(file, "utf8");
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return undefined;
    throw error;
  }
}
