import { imageSize } from "image-size";

/** A picture as it is seen: its kind, and its size in pixels. */
export interface Picture {
  kind: string;
  width: number;
  height: number;
}

/** A picture in bytes; undefined where they are none. */
export function pictureIn(bytes: Uint8Array): Picture | undefined {
  try {
    const { type = "", width, height } = imageSize(bytes);
    return { kind: type.toUpperCase(), width, height };
  } catch {
    return undefined;
  }
}

/** What is seen of pictures, in words. */
export function saidOfPictures(pictures: readonly Picture[]): string {
  return pictures.map((picture, at) => `${nameOf(at, pictures.length)} ${shapeOf(picture)}`).join(" ");
}

function nameOf(at: number, count: number): string {
  return count === 1 ? "The picture" : `Picture ${at + 1}`;
}

function shapeOf({ kind, width, height }: Picture): string {
  const shape = width === height ? "square" : width > height ? "wider than high" : "higher than wide";
  return `is a ${kind} of ${width} by ${height} pixels, ${shape}.`;
}
