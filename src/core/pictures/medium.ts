import { nameAt } from "./anatomy";

/** Brands of the ISO base media format (ISO/IEC 14496-12) that are pictures. */
const stillBrands = new Set(["avif", "avis", "heic", "heix", "heim", "heis", "mif1", "msf1", "hevc"]);

/** The second byte of a frame of MPEG audio (ISO/IEC 11172-3, 13818-7); the first has all bits set. */
const audioHeads = new Set([0xf1, 0xf2, 0xf3, 0xf9, 0xfa, 0xfb]);

/** The sound or film that bytes are, by how they begin; undefined for anything else. */
export function mediumIn(bytes: Uint8Array): "sound" | "film" | undefined {
  const begin = nameAt(bytes, 0);
  if (begin === "RIFF") {
    const form = nameAt(bytes, 8);
    return form === "WAVE" ? "sound" : form === "AVI " ? "film" : undefined;
  }
  if (nameAt(bytes, 4) === "ftyp") {
    const brand = nameAt(bytes, 8);
    return stillBrands.has(brand) ? undefined : brand.startsWith("M4A") ? "sound" : "film";
  }
  if (begin.startsWith("ID3") || begin === "OggS" || begin === "fLaC" || begin === "MThd") return "sound";
  if (bytes[0] === 0xff && audioHeads.has(bytes[1] ?? 0)) return "sound";
  if (begin === "\x1aEß£" || begin === "\x00\x00\x01\xba" || begin.startsWith("FLV")) return "film";
  return undefined;
}
