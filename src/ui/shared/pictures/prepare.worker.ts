import { wordsOfNoPicture } from "@/core/pictures/judging";
import { type ReadPicture, readPicture } from "@/core/pictures/reading";
import type { PictureChange, PreparedPicture, Preparing } from "./prepared";

/** Pixels of the longer side that a picture is sent with at most: models make larger ones smaller themselves. */
const longest = 2_048;
/** Bytes from which a picture without gaps is better kept as a photograph. */
const largePng = 1_500_000;
/** How well a photograph is kept, 0 to 1; and how well where it has to be smaller. */
const qualities = [0.86, 0.7, 0.5];
/** Pixels of a picture that is unpacked to be made smaller. */
const mostUnpacked = 120_000_000;
/** Bytes that are read at all. */
const mostRead = 200 * 1024 * 1024;

let last = Promise.resolve();

// answers each question, in order
self.addEventListener("message", ({ data }: MessageEvent<Preparing>) => {
  last = last.then(async () => self.postMessage(await prepared(data).catch(unreadable)));
});

function unreadable(error: unknown): PreparedPicture {
  return {
    kind: "wrong",
    says: `The picture can't be read: ${error instanceof Error ? error.message : String(error)}`,
  };
}

async function prepared({ file, largest }: Preparing): Promise<PreparedPicture> {
  if (file.size > mostRead) return { kind: "wrong", says: "The file has more than 200 MiB, and no picture has." };
  const read = readPicture(new Uint8Array(await file.arrayBuffer()));
  if (read.kind !== "picture") return { kind: "wrong", says: wordsOfNoPicture(read) };
  const { width, height, type, bytes, isAnimated, isTurned } = read;
  // what is unpacked takes four bytes a pixel
  if (width * height > mostUnpacked)
    return {
      kind: "wrong",
      says: `The picture has ${width} by ${height} pixels, which is more than can be made smaller here.`,
    };
  const isSmall = Math.max(width, height) <= longest && bytes.length <= largest;
  if (isSmall && !isAnimated && !isTurned)
    return { kind: "ready", picture: new Blob([bytes], { type }), width, height, changes: [] };
  return drawn(file, read, largest);
}

/** A picture drawn anew, upright, no larger than need be. */
async function drawn(file: Blob, { type, width, height, isAnimated }: ReadPicture, largest: number) {
  const source = await createImageBitmap(file);
  const scale = Math.min(1, longest / Math.max(source.width, source.height));
  const canvas = new OffscreenCanvas(sideOf(source.width, scale), sideOf(source.height, scale));
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("this browser draws nothing in the background");
  context.imageSmoothingQuality = "high";
  context.drawImage(source, 0, 0, canvas.width, canvas.height);
  source.close();
  const picture = await written(canvas, context, type === "image/jpeg", largest);
  if (picture.size > largest)
    return { kind: "wrong", says: `The picture has more than ${largest} bytes, however it is kept.` } as const;
  const changes: PictureChange[] = [
    ...(isAnimated ? [{ kind: "first frame" } as const] : []),
    ...(scale < 1 || picture.size < file.size / 2 ? [{ kind: "smaller", width, height } as const] : []),
  ];
  return { kind: "ready", picture, width: canvas.width, height: canvas.height, changes } as const;
}

function sideOf(side: number, scale: number): number {
  return Math.max(Math.round(side * scale), 1);
}

/** As a PNG where it is drawn or has gaps, as a JPEG where it is a photograph or too large otherwise. */
async function written(
  canvas: OffscreenCanvas,
  context: OffscreenCanvasRenderingContext2D,
  isPhotograph: boolean,
  largest: number,
): Promise<Blob> {
  const asPng = isPhotograph ? undefined : await canvas.convertToBlob({ type: "image/png" });
  if (asPng && (asPng.size <= Math.min(largePng, largest) || (asPng.size <= largest && hasGaps(context)))) return asPng;
  // what shows through gaps would be black
  context.globalCompositeOperation = "destination-over";
  context.fillStyle = "#fff";
  context.fillRect(0, 0, canvas.width, canvas.height);
  let smallest: Blob | undefined;
  for (const quality of qualities) {
    smallest = await canvas.convertToBlob({ type: "image/jpeg", quality });
    if (smallest.size <= largest) break;
  }
  return smallest as Blob;
}

function hasGaps(context: OffscreenCanvasRenderingContext2D): boolean {
  const { width, height } = context.canvas;
  const { data } = context.getImageData(0, 0, width, height);
  for (let at = 3; at < data.length; at += 4) if (data[at] !== 255) return true;
  return false;
}
