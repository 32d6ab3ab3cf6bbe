import { imageSize } from "image-size";
import { type Anatomy, joinedParts } from "./anatomy";
import { gifAnatomy } from "./gif";
import { jpegAnatomy } from "./jpeg";
import { mediumIn } from "./medium";
import { longestSide, mostPixels, type Picture } from "./picture";
import { pngAnatomy } from "./png";
import { webpAnatomy } from "./webp";

/** What bytes are as a picture, by what stands in them and by no name. */
export interface ReadPicture extends Picture {
  kind: "picture";
  /** The picture alone: without place, time, camera, comments and whatever else was written into its file. */
  bytes: Uint8Array<ArrayBuffer>;
  isAnimated: boolean;
  /** Whether it is to be turned or mirrored to stand upright, as EXIF says, which is not in its bytes any more. */
  isTurned: boolean;
}

/** Why bytes are no picture that is taken. */
export type NoPicture =
  | { kind: "medium"; medium: "sound" | "film" }
  /** A picture of another kind, by its name. */
  | { kind: "other"; type: string }
  /** One that has no end, or a size that can't be. */
  | { kind: "broken"; type: string }
  | { kind: "none" };

const formats: Record<string, { type: Picture["type"]; anatomy: (bytes: Uint8Array) => Anatomy | undefined }> = {
  png: { type: "image/png", anatomy: pngAnatomy },
  jpg: { type: "image/jpeg", anatomy: jpegAnatomy },
  webp: { type: "image/webp", anatomy: webpAnatomy },
  gif: { type: "image/gif", anatomy: gifAnatomy },
};

/** Reads bytes as a picture; it never throws. */
export function readPicture(bytes: Uint8Array): ReadPicture | NoPicture {
  const medium = mediumIn(bytes);
  if (medium) return { kind: "medium", medium };
  const size = sizeIn(bytes);
  if (!size) return { kind: "none" };
  const name = (size.type ?? "").toUpperCase();
  const format = Object.hasOwn(formats, size.type ?? "") ? formats[size.type ?? ""] : undefined;
  if (!format) return { kind: "other", type: name };
  const anatomy = format.anatomy(bytes);
  const { width, height } = size;
  const isSane = [width, height].every((side) => Number.isInteger(side) && side > 0 && side <= longestSide);
  if (!anatomy || !isSane) return { kind: "broken", type: name };
  const { parts, isAnimated } = anatomy;
  const isTurned = (size.orientation ?? 1) > 1;
  return { kind: "picture", type: format.type, width, height, bytes: joinedParts(parts), isAnimated, isTurned };
}

/** Whether a picture has more pixels than are taken. */
export function isTooLarge({ width, height }: Pick<Picture, "width" | "height">): boolean {
  return width * height > mostPixels;
}

function sizeIn(bytes: Uint8Array) {
  try {
    return imageSize(bytes);
  } catch {
    // bytes of no picture that is known
    return undefined;
  }
}
