import { pictureTypes } from "../conversation/pieces";

/** What a picture is: its media type, and its size in pixels. */
export interface Picture {
  type: (typeof pictureTypes)[number];
  width: number;
  height: number;
}

/** Bytes that a picture may have, pixels of a side, and pixels in all. */
export const largestPicture = 20 * 1024 * 1024;
export const longestSide = 20_000;
export const mostPixels = 25_000_000;

/** What is said of the types that are taken. */
export const takenTypes = pictureTypes.map((type) => type.replace("image/", "").toUpperCase()).join(", ");
