import { imageSize } from "image-size";
import { decode } from "jpeg-js";
import { GifReader } from "omggif";
import { PNG } from "pngjs";

/** A picture as it is seen: its kind, its size in pixels, and its main colours, the one that there is most of first. */
export interface Picture {
  /** Where it stands, of which nothing is seen. */
  address?: string;
  kind: string;
  width: number;
  height: number;
  /** Undefined where they can't be made out. */
  colours?: readonly Colour[];
}

interface Colour {
  name: string;
  /** Of all that is looked at, 0 to 1. */
  share: number;
}

/** Pixels that a picture may have to be looked at for its colours, and how many of those are. */
const mostPixels = 16_000_000;
const looked = 20_000;
/** What a colour has to have of a picture to be named. */
const least = 0.06;
const mostNamed = 3;

/** A picture in bytes; undefined where they are none. */
export function pictureIn(bytes: Uint8Array): Picture | undefined {
  try {
    const { type = "", width, height } = imageSize(bytes);
    return {
      kind: type.toUpperCase(),
      width,
      height,
      // only what is spoken of is looked at
      get colours() {
        return coloursIn(bytes, type, width * height);
      },
    };
  } catch {
    return undefined;
  }
}

function coloursIn(bytes: Uint8Array, type: string, size: number): Colour[] | undefined {
  const pixels = size > mostPixels ? undefined : unpacked(bytes, type);
  if (!pixels) return undefined;
  const step = Math.max(Math.floor(pixels.length / 4 / looked), 1) * 4;
  const counts = new Map<string, number>();
  let seen = 0;
  for (let at = 0; at + 3 < pixels.length; at += step) {
    // what shows through is no colour
    if ((pixels[at + 3] as number) < 128) continue;
    const name = nameOfColour(pixels[at] as number, pixels[at + 1] as number, pixels[at + 2] as number);
    counts.set(name, (counts.get(name) ?? 0) + 1);
    seen += 1;
  }
  return [...counts]
    .map(([name, count]) => ({ name, share: count / seen }))
    .filter(({ share }) => share >= least)
    .sort((a, b) => b.share - a.share)
    .slice(0, mostNamed);
}

function unpacked(bytes: Uint8Array, type: string): Uint8Array | undefined {
  try {
    return pixelsIn(bytes, type);
  } catch {
    // one that is not whole
    return undefined;
  }
}

/** The pixels of a picture, four bytes each; undefined for a kind that is not unpacked here. */
function pixelsIn(bytes: Uint8Array, type: string): Uint8Array | undefined {
  if (type === "png") return PNG.sync.read(Buffer.from(bytes)).data;
  if (type === "jpg") return decode(bytes, { useTArray: true, maxMemoryUsageInMB: 512 }).data;
  if (type !== "gif") return undefined;
  const reader = new GifReader(Buffer.from(bytes));
  const pixels = new Uint8Array(reader.width * reader.height * 4);
  reader.decodeAndBlitFrameRGBA(0, pixels);
  return pixels;
}

/** Hues by the degree at which they end. */
const hues: [to: number, name: string][] = [
  [15, "red"],
  [42, "orange"],
  [68, "yellow"],
  [160, "green"],
  [200, "teal"],
  [255, "blue"],
  [292, "violet"],
  [340, "pink"],
  [360, "red"],
];

/** A colour by name, from its hue, how strong it is, and how light. */
function nameOfColour(red: number, green: number, blue: number): string {
  const [most, fewest] = [Math.max(red, green, blue), Math.min(red, green, blue)];
  const spread = most - fewest;
  const light = (most + fewest) / 510;
  if (light < 0.16) return "black";
  if (light > 0.94) return "white";
  const strength = spread / 255 / (1 - Math.abs(2 * light - 1));
  if (strength < 0.14) return "grey";
  const sixth =
    most === red ? (green - blue) / spread : most === green ? 2 + (blue - red) / spread : 4 + (red - green) / spread;
  const degree = (sixth * 60 + 360) % 360;
  const name = hues.find(([to]) => degree < to)?.[1] ?? "red";
  return name === "orange" && light < 0.4 ? "brown" : name;
}

/** What is seen of pictures, in words. */
export function saidOfPictures(pictures: readonly Picture[]): string {
  return pictures.map((picture, at) => `${nameOf(at, pictures.length)} ${shapeOf(picture)}`).join(" ");
}

function nameOf(at: number, count: number): string {
  return count === 1 ? "The picture" : `Picture ${at + 1}`;
}

function shapeOf({ address, kind, width, height, colours }: Picture): string {
  if (address !== undefined) return `stands at ${address}, and I open no addresses here.`;
  const shape = width === height ? "square" : width > height ? "wider than high" : "higher than wide";
  return `is a ${kind} of ${width} by ${height} pixels, ${shape}${saidOfColours(colours)}.`;
}

function saidOfColours(colours: readonly Colour[] | undefined): string {
  if (!colours) return ", of colours that I can't make out";
  const [main, ...others] = colours;
  if (!main) return ", of no colour";
  const extent = main.share > 0.9 ? "all" : "mostly";
  return `, ${extent} ${main.name}${others.length === 0 ? "" : `, with ${others.map(({ name }) => name).join(" and ")}`}`;
}
