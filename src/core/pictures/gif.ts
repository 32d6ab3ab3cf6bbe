import type { Anatomy } from "./anatomy";

/** Blocks (GIF89a, 20 to 27), by the byte with which they begin. */
const image = 0x2c;
const extension = 0x21;
const trailer = 0x3b;
const control = 0xf9;
const application = 0xff;
const loops = ["NETSCAPE2.0", "ANIMEXTS1.0"];

/** A GIF in its blocks up to its end, without comments, texts and what applications wrote into it. */
export function gifAnatomy(bytes: Uint8Array): Anatomy | undefined {
  if (!/^GIF8[79]a$/.test(String.fromCharCode(...bytes.subarray(0, 6)))) return undefined;
  const head = 13 + tableAt(bytes, 10);
  const parts = [bytes.subarray(0, head)];
  let images = 0;
  for (let at = head; at < bytes.length; ) {
    const kind = bytes[at];
    if (kind === trailer) {
      parts.push(bytes.subarray(at, at + 1));
      return images === 0 ? undefined : { parts, isAnimated: images > 1 };
    }
    if (kind !== image && kind !== extension) return undefined;
    const data = kind === image ? at + 11 + tableAt(bytes, at + 9) : at + 2;
    const next = afterBlocks(bytes, data);
    if (next === undefined) return undefined;
    if (kind === image) images += 1;
    const label = bytes[at + 1];
    const name = String.fromCharCode(...bytes.subarray(at + 3, at + 14));
    if (kind === image || label === control || (label === application && loops.includes(name)))
      parts.push(bytes.subarray(at, next));
    at = next;
  }
  return undefined;
}

/** Bytes of the table of colours that flags tell of. */
function tableAt(bytes: Uint8Array, at: number): number {
  const flags = bytes[at] ?? 0;
  return flags & 0x80 ? 3 * 2 ** ((flags & 7) + 1) : 0;
}

/** What comes after blocks of data, the last of which is empty. */
function afterBlocks(bytes: Uint8Array, from: number): number | undefined {
  let at = from;
  for (let size = bytes[at]; size !== undefined; size = bytes[at]) {
    at += size + 1;
    if (size === 0) return at;
  }
  return undefined;
}
