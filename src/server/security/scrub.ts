/**
 * Takes secrets out of bytes that a provider echoes, across the borders of chunks too. What might
 * be the beginning of a secret is held back until the next bytes tell. Each byte of a secret
 * becomes `*`, so that lengths stay as they were.
 */
export class Scrubber {
  private readonly scrubs: OneScrub[];

  /** @param secrets what must not pass; each is found as it is and as JSON or a URL would write it */
  constructor(secrets: readonly string[]) {
    this.scrubs = formsOf(secrets).map((form) => new OneScrub(Buffer.from(form)));
  }

  /** Whether there is anything to take out. */
  get isIdle(): boolean {
    return this.scrubs.length === 0;
  }

  /** Whether a secret was taken out. */
  get hasFound(): boolean {
    return this.scrubs.some(({ hasFound }) => hasFound);
  }

  /** The bytes that are safe to pass on. */
  feed(bytes: Buffer): Buffer {
    let safe = bytes;
    for (const scrub of this.scrubs) safe = scrub.feed(safe);
    return safe;
  }

  /** What was held back when no more bytes come. */
  close(): Buffer {
    let rest: Buffer = Buffer.alloc(0);
    for (const scrub of this.scrubs) rest = Buffer.concat([scrub.feed(rest), scrub.close()]);
    return rest;
  }

  /** All of a text without the secrets. */
  static text(text: string, secrets: readonly string[]): string {
    const scrubber = new Scrubber(secrets);
    return Buffer.concat([scrubber.feed(Buffer.from(text)), scrubber.close()]).toString("utf8");
  }
}

/** The ways in which secrets can be written, longest first. Very short ones are no secrets. */
function formsOf(secrets: readonly string[]): string[] {
  const forms = secrets
    .filter((secret) => secret.length >= 4)
    .flatMap((secret) => [secret, JSON.stringify(secret).slice(1, -1), encodeURIComponent(secret)]);
  return [...new Set(forms)].sort((a, b) => b.length - a.length);
}

class OneScrub {
  hasFound = false;
  private held: Buffer = Buffer.alloc(0);

  constructor(private readonly secret: Buffer) {}

  feed(bytes: Buffer): Buffer {
    if (bytes.length === 0) return bytes;
    const all = this.held.length > 0 ? Buffer.concat([this.held, bytes]) : bytes;
    for (let at = all.indexOf(this.secret); at >= 0; at = all.indexOf(this.secret, at + this.secret.length))
      this.cover(all, at);
    const safe = all.length - this.begun(all);
    this.held = all.subarray(safe);
    return all.subarray(0, safe);
  }

  private cover(bytes: Buffer, at: number): void {
    bytes.fill("*", at, at + this.secret.length);
    this.hasFound = true;
  }

  close(): Buffer {
    const rest = this.held;
    this.held = Buffer.alloc(0);
    return rest;
  }

  /** How many bytes at the end could be the beginning of the secret. */
  private begun(bytes: Buffer): number {
    const first = this.secret[0] as number;
    const from = Math.max(bytes.length - this.secret.length + 1, 0);
    for (let at = bytes.indexOf(first, from); at >= 0; at = bytes.indexOf(first, at + 1))
      if (this.secret.subarray(0, bytes.length - at).equals(bytes.subarray(at))) return bytes.length - at;
    return 0;
  }
}

/** Takes secrets out of text that comes in pieces, wherever it is cut. */
export class TextScrubber {
  private readonly scrubber: Scrubber;
  /** What is held back may end in the middle of a character's bytes. */
  private readonly utf8 = new TextDecoder();
  /** The first half of a character outside of the Basic Multilingual Plane, whose second half has not come yet. */
  private half = "";

  constructor(secrets: readonly string[]) {
    this.scrubber = new Scrubber(secrets);
  }

  get hasFound(): boolean {
    return this.scrubber.hasFound;
  }

  feed(text: string): string {
    if (this.scrubber.isIdle) return text;
    const all = this.half + text;
    // the first half of a character can't be written as bytes before its second half is there
    this.half = /[\ud800-\udbff]$/.test(all) ? all.slice(-1) : "";
    const whole = all.slice(0, all.length - this.half.length);
    return this.utf8.decode(this.scrubber.feed(Buffer.from(whole)), { stream: true });
  }

  close(): string {
    const rest = this.half === "" ? this.scrubber.close() : this.scrubber.feed(Buffer.from(this.half));
    this.half = "";
    return this.utf8.decode(Buffer.concat([rest, this.scrubber.close()]));
  }
}
