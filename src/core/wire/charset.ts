/**
 * Text from the bytes of an answer, cut anywhere: by the charset that its content type names, by a byte order mark
 * (https://encoding.spec.whatwg.org/#bom-sniff), and as UTF-8 else. What can't be read becomes the sign for it.
 */
export class Characters {
  private decoder: TextDecoder | undefined;
  /** A first byte that may be half of a byte order mark. */
  private first: Uint8Array | undefined;

  constructor(private readonly contentType: string) {}

  /** The text that these bytes complete. */
  feed(bytes: Uint8Array): string {
    if (this.decoder) return this.decoder.decode(bytes, { stream: true });
    const all = this.first ? joinedBytes([this.first, bytes]) : bytes;
    if (all.length === 0) return "";
    if (all.length === 1 && isHalfMark(all[0])) {
      this.first = all.slice();
      return "";
    }
    this.first = undefined;
    this.decoder = decoderFor(markIn(all) ?? charsetIn(this.contentType));
    return this.decoder.decode(all, { stream: true });
  }

  /** What is left at the end of all bytes. */
  close(): string {
    const decoder = this.decoder ?? decoderFor(charsetIn(this.contentType));
    return decoder.decode(this.first ?? new Uint8Array());
  }
}

/** All of the text in bytes that are whole, which costs a fraction of reading them by parts. */
export function textIn(bytes: Uint8Array, contentType: string): string {
  return decoderFor(markIn(bytes) ?? charsetIn(contentType)).decode(bytes);
}

/** Parts of bytes as one. */
export function joinedBytes(parts: readonly Uint8Array[]): Uint8Array {
  const [first, more] = parts;
  if (first && !more) return first;
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

/** No text of UTF-8 begins with one of these bytes. */
function isHalfMark(byte: number | undefined): boolean {
  return byte === 0xfe || byte === 0xff;
}

function markIn([first, second]: Uint8Array): string | undefined {
  if (first === 0xff && second === 0xfe) return "utf-16le";
  return first === 0xfe && second === 0xff ? "utf-16be" : undefined;
}

function charsetIn(contentType: string): string {
  return /;\s*charset\s*=\s*"?([^\s;"]+)/i.exec(contentType)?.[1] ?? "utf-8";
}

function decoderFor(charset: string): TextDecoder {
  try {
    return new TextDecoder(charset);
  } catch {
    // a name that the encoding standard does not have
    return new TextDecoder();
  }
}
