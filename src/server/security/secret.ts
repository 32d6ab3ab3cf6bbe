import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";

/** Signs values with a secret of the data folder, so that a value from outside can be told to be ours. */
export class Signer {
  constructor(private readonly secret: Buffer) {}

  /** The value with its signature. */
  sign(value: string): string {
    return `${value}.${this.signature(value)}`;
  }

  /** The value of a signed text; undefined when we did not sign it. */
  open(signed: string): string | undefined {
    const dot = signed.lastIndexOf(".");
    if (dot < 0) return undefined;
    const value = signed.slice(0, dot);
    const given = Buffer.from(signed.slice(dot + 1));
    const own = Buffer.from(this.signature(value));
    return given.length === own.length && timingSafeEqual(given, own) ? value : undefined;
  }

  private signature(value: string): string {
    return createHmac("sha256", this.secret).update(value).digest("base64url");
  }
}

/** The signer of a data folder. */
export function signerOf(folder: string): Signer {
  return new Signer(secretIn(folder, "secret"));
}

const secretLength = 32;

/** Thrown for a file of the data folder that is not as Unruly Finch left it. */
export class DamagedFile extends Error {}

/**
 * 32 random bytes in a file of the data folder, made at the first use, readable by its owner alone.
 * @throws {DamagedFile} where the file holds something else
 */
export function secretIn(folder: string, name: string): Buffer {
  const file = join(folder, name);
  try {
    const secret = readFileSync(file);
    if (secret.length === secretLength) return secret;
    throw new DamagedFile(
      `The file ${file} is damaged: it should hold ${secretLength} bytes, and holds ${secret.length}. Put back a copy of it. Without one, delete it: then keys that were typed have to be typed once more, and visitors begin anew.`,
    );
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    const secret = randomBytes(secretLength);
    writeFileSync(file, secret, { mode: 0o600, flag: "wx" });
    return secret;
  }
}

/** A parameter that has `signer`. */
export interface HasSigner {
  signer: Signer;
}
