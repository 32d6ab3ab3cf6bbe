/**
 * Takes a key out of bytes that a provider echoes, across the borders of chunks too. What might be
 * the beginning of the key is held back until the next bytes tell. Each byte of a key becomes `*`,
 * so that lengths stay as they were.
 */
export class Scrubber {
  private readonly key: Buffer;
  private held: Buffer = Buffer.alloc(0);

  constructor(key: string | undefined) {
    this.key = Buffer.from(key ?? "");
  }

  /** The bytes that are safe to pass on. */
  feed(bytes: Buffer): Buffer {
    if (this.key.length === 0) return bytes;
    const all = this.held.length > 0 ? Buffer.concat([this.held, bytes]) : bytes;
    for (let at = all.indexOf(this.key); at >= 0; at = all.indexOf(this.key, at + this.key.length))
      all.fill("*", at, at + this.key.length);
    const safe = all.length - this.begun(all);
    this.held = all.subarray(safe);
    return all.subarray(0, safe);
  }

  /** What was held back when no more bytes come. */
  close(): Buffer {
    return this.held;
  }

  /** How many bytes at the end could be the beginning of the key. */
  private begun(bytes: Buffer): number {
    const first = this.key[0] as number;
    const from = Math.max(bytes.length - this.key.length + 1, 0);
    for (let at = bytes.indexOf(first, from); at >= 0; at = bytes.indexOf(first, at + 1))
      if (this.key.subarray(0, bytes.length - at).equals(bytes.subarray(at))) return bytes.length - at;
    return 0;
  }
}
