import { type Anatomy, nameAt } from "./anatomy";

/** Chunks that say what is seen (RFC 9649); EXIF, XMP and unknown ones are not. */
const seen = new Set(["VP8 ", "VP8L", "VP8X", "ALPH", "ANIM", "ANMF", "ICCP"]);
/** In the flags of VP8X: that there is EXIF, that there is XMP. */
const tells = 0x08 | 0x04;
const animates = 0x02;

/** A WebP in its chunks, without those that only tell about it. */
export function webpAnatomy(bytes: Uint8Array): Anatomy | undefined {
  if (nameAt(bytes, 0) !== "RIFF" || nameAt(bytes, 8) !== "WEBP") return undefined;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const end = 8 + view.getUint32(4, true);
  if (end > bytes.length) return undefined;
  const chunks: Uint8Array[] = [];
  let isAnimated = false;
  let hasPicture = false;
  for (let at = 12; at + 8 <= end; ) {
    const name = nameAt(bytes, at);
    const size = view.getUint32(at + 4, true);
    const next = at + 8 + size + (size % 2);
    if (at + 8 + size > end) return undefined;
    const chunk = Uint8Array.from(bytes.subarray(at, Math.min(next, end)));
    if (name === "VP8X") {
      const flags = chunk[8] as number;
      isAnimated = (flags & animates) !== 0;
      chunk[8] = flags & ~tells;
    }
    hasPicture ||= name === "VP8 " || name === "VP8L" || name === "ANMF";
    if (seen.has(name)) chunks.push(chunk);
    at = next;
  }
  if (!hasPicture) return undefined;
  const head = Uint8Array.from(bytes.subarray(0, 12));
  const size = chunks.reduce((sum, { length }) => sum + length, 4);
  new DataView(head.buffer).setUint32(4, size, true);
  return { parts: [head, ...chunks], isAnimated };
}
