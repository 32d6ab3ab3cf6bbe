import { describe, expect, it } from "vitest";
import { palettes, type ThemeName } from "./palette";

/** The contrast of two colours by https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio. */
function contrast(one: string, other: string): number {
  const [a, b] = [luminance(one), luminance(other)];
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
}

function luminance(colour: string): number {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
    const share = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}

describe.each(["light", "dark"] as ThemeName[])("the %s palette", (theme) => {
  const palette = palettes[theme];

  it.each(["ink", "quiet", "wing", "moss", "plum", "good", "caution", "bad"] as const)(
    "has %s readable on every ground",
    (text) => {
      for (const ground of ["ground", "sheet", "shade"] as const)
        expect(contrast(palette[text], palette[ground])).toBeGreaterThanOrEqual(4.5);
    },
  );

  it("has the bar and the main button readable", () => {
    expect(contrast(palette["bar-text"], palette.bar)).toBeGreaterThanOrEqual(4.5);
    expect(contrast(palette["bar-quiet"], palette.bar)).toBeGreaterThanOrEqual(4.5);
    expect(contrast(palette["on-finch"], palette.finch)).toBeGreaterThanOrEqual(4.5);
  });
});
