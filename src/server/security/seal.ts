import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { secretIn } from "./secret";

/** Seals secrets at rest with AES-256-GCM (NIST SP 800-38D), under a key file of the data folder. */
export class Seal {
  constructor(private readonly key: Buffer) {}

  /** The sealed form of a text: nonce, tag and ciphertext, in Base64. */
  close(text: string): string {
    const nonce = randomBytes(12);
    const cipher = createCipheriv("aes-256-gcm", this.key, nonce);
    const sealed = Buffer.concat([cipher.update(text, "utf8"), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString("base64");
  }

  /** The text; undefined where it was sealed under another key, or changed. */
  open(sealed: string): string | undefined {
    const bytes = Buffer.from(sealed, "base64");
    try {
      const decipher = createDecipheriv("aes-256-gcm", this.key, bytes.subarray(0, 12));
      decipher.setAuthTag(bytes.subarray(12, 28));
      return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString("utf8");
    } catch {
      return undefined;
    }
  }
}

/** The seal of a data folder; its key is made at the first use, readable by its owner alone. */
export function sealOf(folder: string): Seal {
  return new Seal(secretIn(folder, "seal.key"));
}

/** A parameter that has `seal`. */
export interface HasSeal {
  seal: Seal;
}
