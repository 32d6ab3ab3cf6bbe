/** Contrast of colours as WCAG 2.2 has it: https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio */

/** The least contrast of text at level AA. */
export const enough = 4.5;

/** The contrast of two colours, 1 to 21. @param a as `#rrggbb`, as is `b` */
export function contrastOf(a: string, b: string): number {
  const [lighter, darker] = [luminanceOf(a), luminanceOf(b)].sort((x, y) => y - x) as [number, number];
  return (lighter + 0.05) / (darker + 0.05);
}

/** Black or white, whichever reads better on a colour. */
export function inkOn(colour: string): "#ffffff" | "#000000" {
  return contrastOf(colour, "#ffffff") >= contrastOf(colour, "#000000") ? "#ffffff" : "#000000";
}

/** A colour, made lighter or darker until text of it reads on a ground. */
export function readableOn(colour: string, ground: string): string {
  const towards = luminanceOf(ground) > 0.18 ? 0 : 255;
  let mixed = colour;
  for (let share = 0; share <= 1 && contrastOf(mixed, ground) < enough; share += 0.05)
    mixed = mix(colour, towards, share);
  return mixed;
}

function mix(colour: string, towards: number, share: number): string {
  const mixed = channelsOf(colour).map((channel) => Math.round(channel + (towards - channel) * share));
  return `#${mixed.map((channel) => channel.toString(16).padStart(2, "0")).join("")}`;
}

function luminanceOf(colour: string): number {
  const [red = 0, green = 0, blue = 0] = channelsOf(colour).map((channel) => {
    const share = channel / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}

function channelsOf(colour: string): number[] {
  return [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16));
}
