import type { Anatomy } from "./anatomy";

/** Markers (ITU-T T.81, B.1.1.3). */
const start = 0xd8;
const end = 0xd9;
const scan = 0xda;
const comment = 0xfe;
const firstApplication = 0xe0;
const lastApplication = 0xef;

/** Segments of applications that say how the colours are meant, by how they begin; all others tell about the picture. */
const meant = [
  { marker: 0xe0, name: "JFIF\0" },
  { marker: 0xe2, name: "ICC_PROFILE\0" },
  { marker: 0xee, name: "Adobe" },
];

/** A JPEG in parts: its segments up to its end, without comments, EXIF, thumbnails, and whatever follows it in the file. */
export function jpegAnatomy(bytes: Uint8Array): Anatomy | undefined {
  if (bytes[0] !== 0xff || bytes[1] !== start) return undefined;
  const parts = [bytes.subarray(0, 2)];
  let hasScan = false;
  for (let at = 2; at + 1 < bytes.length; ) {
    if (bytes[at] !== 0xff) return undefined;
    const marker = bytes[at + 1] as number;
    // fill bytes stand before a marker
    if (marker === 0xff) {
      at += 1;
      continue;
    }
    if (marker === end) {
      parts.push(bytes.subarray(at, at + 2));
      return hasScan ? { parts, isAnimated: false } : undefined;
    }
    const next = at + 2 + (((bytes[at + 2] as number) << 8) | (bytes[at + 3] as number));
    if (!(next >= at + 4 && next <= bytes.length)) return undefined;
    const to = marker === scan ? endOfScan(bytes, next) : next;
    if (isKept(marker, bytes.subarray(at + 4, next))) parts.push(bytes.subarray(at, to));
    hasScan ||= marker === scan;
    at = to;
  }
  return undefined;
}

function isKept(marker: number, content: Uint8Array): boolean {
  if (marker === comment) return false;
  if (marker < firstApplication || marker > lastApplication) return true;
  return meant.some(
    (each) => each.marker === marker && [...each.name].every((sign, at) => content[at] === sign.charCodeAt(0)),
  );
}

/** Where the coded data of a scan ends: at a marker that is neither a stuffed byte nor a restart. */
function endOfScan(bytes: Uint8Array, from: number): number {
  for (let at = bytes.indexOf(0xff, from); at >= 0; at = bytes.indexOf(0xff, at + 1)) {
    const next = bytes[at + 1];
    if (next === undefined) break;
    if (next !== 0 && next !== 0xff && !(next >= 0xd0 && next <= 0xd7)) return at;
  }
  return bytes.length;
}
