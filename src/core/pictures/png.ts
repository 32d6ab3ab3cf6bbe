import { type Anatomy, nameAt } from "./anatomy";

const signature = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
/** Chunks that say what is seen (PNG, third edition, 11); others tell about the picture, in text, EXIF or times. */
const seen = new Set("IHDR PLTE IDAT IEND tRNS cHRM gAMA iCCP sBIT sRGB cICP bKGD pHYs acTL fcTL fdAT".split(" "));

/** A PNG in its chunks up to its end, without those that only tell about it. */
export function pngAnatomy(bytes: Uint8Array): Anatomy | undefined {
  if (!signature.every((byte, at) => bytes[at] === byte)) return undefined;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts = [bytes.subarray(0, signature.length)];
  const names = new Set<string>();
  for (let at = signature.length; at + 12 <= bytes.length; ) {
    const name = nameAt(bytes, at + 4);
    const next = at + 12 + view.getUint32(at);
    if (next > bytes.length) return undefined;
    if (seen.has(name)) parts.push(bytes.subarray(at, next));
    names.add(name);
    if (name === "IEND") return names.has("IDAT") ? { parts, isAnimated: names.has("acTL") } : undefined;
    at = next;
  }
  return undefined;
}
