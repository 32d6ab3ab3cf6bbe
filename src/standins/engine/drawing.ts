import { PNG } from "pngjs";

/** A drawing that was asked for: its bytes, and what is on it. */
export interface Drawing {
  png: Buffer;
  says: string;
}

type Rgb = readonly [red: number, green: number, blue: number];

const paints: Record<string, Rgb> = {
  red: [163, 25, 46],
  yellow: [232, 183, 26],
  green: [67, 122, 41],
  blue: [40, 70, 190],
  violet: [105, 68, 111],
  white: [250, 250, 250],
  black: [27, 35, 38],
  orange: [214, 120, 30],
};
const [width, height] = [320, 200];
const sky: Rgb = [223, 233, 236];
const water: Rgb = [31, 92, 107];
const wanted = /\b(?:draw|paint|sketch)\b/i;

/** The boat that a question wants drawn, its hull in the colour that it names; undefined where nothing is to be drawn. */
export function drawingFor(question: string): Drawing | undefined {
  if (!wanted.test(question)) return undefined;
  const paint = Object.keys(paints).find((name) => new RegExp(`\\b${name}\\b`, "i").test(question)) ?? "red";
  const image = new PNG({ width, height });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) image.data.set([...colourAt(x, y, paint), 255], (y * width + x) * 4);
  return { png: PNG.sync.write(image), says: `Here is a ${paint} boat on the water.` };
}

function colourAt(x: number, y: number, paint: string): Rgb {
  // the hull is narrower below; a mast stands on it, and a white cabin
  if (y > 105 && y < 135 && Math.abs(x - 160) < 90 - (y - 105)) return paints[paint] as Rgb;
  if (y > 80 && y <= 105 && Math.abs(x - 150) < 36) return paints.white as Rgb;
  if (y > 30 && y <= 80 && Math.abs(x - 170) < 2) return paints.black as Rgb;
  return y > 125 ? water : sky;
}
