import { imageSize } from "image-size";
import { largestPicture, longestSide, type Picture, takenTypes } from "@/core/pictures/picture";
import { refuse } from "../ground/refusal";

const types: Record<string, Picture["type"]> = {
  png: "image/png",
  jpg: "image/jpeg",
  webp: "image/webp",
  gif: "image/gif",
};

/** What bytes are as a picture, by what stands in them and by no name; undefined where they are none that is taken. */
export function pictureIn(bytes: Uint8Array): Picture | undefined {
  try {
    const { type = "", width, height } = imageSize(bytes);
    const known = Object.hasOwn(types, type) ? types[type] : undefined;
    const isSane = [width, height].every((side) => Number.isInteger(side) && side > 0 && side <= longestSide);
    return known && isSane ? { type: known, width, height } : undefined;
  } catch {
    return undefined;
  }
}

/** The picture that bytes are. @throws {Refusal} `bad-request`, `too-large` */
export function judgedPicture(bytes: Uint8Array): Picture {
  if (bytes.length > largestPicture)
    refuse("too-large", `The picture has ${bytes.length} bytes, and may have ${largestPicture}.`, {
      advice: "Make it smaller.",
    });
  return (
    pictureIn(bytes) ??
    refuse("bad-request", `The body is no picture that is taken: ${takenTypes}, up to ${longestSide} pixels a side.`, {
      advice: "Send the bytes of one as the body.",
    })
  );
}
