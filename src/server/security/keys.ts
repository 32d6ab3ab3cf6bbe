import { readFileSync } from "node:fs";
import { join } from "node:path";
import { parseEnv } from "node:util";

/**
 * The value of an environment variable that holds a provider's key: from the environment this
 * process was started with, or else from `.env` as it is now; undefined when neither has it.
 */
export function keyFrom(variable: string): string | undefined {
  return process.env[variable] || envFile()[variable] || undefined;
}

/** Whether a value can stand in a header (RFC 9110, 5.5). */
export function isLine(value: string): boolean {
  return /^[\t\x20-\x7e\x80-\xff]*$/.test(value);
}

function envFile(): Record<string, string | undefined> {
  try {
    return parseEnv(readFileSync(join(process.cwd(), ".env"), "utf8"));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return {};
    throw error;
  }
}
