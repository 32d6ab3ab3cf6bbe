import { type Problem, problem } from "../problem/problem";
import { largestPicture, mostPixels, type Picture, takenTypes } from "./picture";
import { isTooLarge, type NoPicture, type ReadPicture, readPicture } from "./reading";

/** A picture that is taken: its bytes hold nothing but the picture. */
export interface TakenPicture extends Picture {
  kind: "taken";
  bytes: Uint8Array<ArrayBuffer>;
}

/**
 * Judges bytes that are handed in as a picture, in front of whatever keeps or sends them.
 * @param largest bytes that it may have
 */
export function judgePicture(
  bytes: Uint8Array,
  largest = largestPicture,
): TakenPicture | { kind: "problem"; problem: Problem } {
  const refused = (kind: "bad-request" | "too-large", detail: string, advice: string) =>
    ({ kind: "problem", problem: problem(kind, detail, { advice }) }) as const;
  if (bytes.length > largest)
    return refused("too-large", `The picture has ${bytes.length} bytes, and may have ${largest}.`, "Make it smaller.");
  const read = readPicture(bytes);
  if (read.kind !== "picture")
    return refused("bad-request", wordsOfNoPicture(read), "Send the bytes of one as the body.");
  if (read.isAnimated)
    return refused("bad-request", "The picture is animated, and models are sent still ones.", "Send one frame of it.");
  if (isTooLarge(read)) return refused("too-large", wordsOfPixels(read), "Make it smaller.");
  const { type, width, height } = read;
  return { kind: "taken", type, width, height, bytes: read.bytes };
}

function wordsOfPixels({ width, height }: ReadPicture): string {
  const millions = (pixels: number) => (pixels / 1_000_000).toFixed(1).replace(/\.0$/, "");
  return `The picture has ${width} by ${height} pixels, ${millions(width * height)} million, and may have ${millions(mostPixels)} million.`;
}

/** Says what bytes are instead of a picture that is taken. */
export function wordsOfNoPicture(no: NoPicture): string {
  switch (no.kind) {
    case "medium":
      return `This is ${no.medium === "film" ? "a film" : "sound"}: apps take text and pictures, and neither sound nor film.`;
    case "other":
      return `This is a picture of the kind ${no.type}, and those that are taken are ${takenTypes}.`;
    case "broken":
      return `This begins as a picture of the kind ${no.type}, and it is not whole, or of a size that none has.`;
    case "none":
      return `This is no picture that is taken: ${takenTypes}.`;
  }
}
