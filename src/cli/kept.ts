import { chmodSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import { dirname, join } from "node:path";
import { z } from "zod";

/** What is kept for one address: who calls there, and where each conversation stands. */
const placeSchema = z.object({
  visitor: z.string(),
  /** By the address of the app, as are the conversations. */
  tokens: z.record(z.string(), z.string()).default({}),
  conversations: z.record(z.string(), z.string()).default({}),
});
export type Place = z.infer<typeof placeSchema>;

const keptSchema = z.record(z.string(), placeSchema);

/** What the terminal keeps between two runs: readable by its owner alone. */
export class Kept {
  private places: Record<string, Place>;

  /** @throws {Error} where the file holds something else */
  constructor(readonly file = usualFile()) {
    this.places = read(file);
  }

  /** What is kept for an address; a new visitor where there is nothing yet. */
  at(address: string): Place {
    return (
      this.places[address] ?? {
        visitor: `terminal-${Math.random().toString(36).slice(2, 10)}`,
        tokens: {},
        conversations: {},
      }
    );
  }

  keep(address: string, place: Place): void {
    this.places = { ...this.places, [address]: place };
    mkdirSync(dirname(this.file), { recursive: true, mode: 0o700 });
    writeFileSync(this.file, `${JSON.stringify(this.places, null, 2)}\n`, { mode: 0o600 });
    // a file that was there before keeps its rights otherwise
    chmodSync(this.file, 0o600);
  }
}

function usualFile(): string {
  return join(process.env.XDG_CONFIG_HOME ?? join(homedir(), ".config"), "finch", "terminal.json");
}

function read(file: string): Record<string, Place> {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return {};
    throw error;
  }
  try {
    return keptSchema.parse(JSON.parse(text));
  } catch {
    throw new Error(`${file} is not as it was left. Mend it, or delete it and begin anew.`);
  }
}
