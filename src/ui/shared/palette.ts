/** The colours of the bench, light and dark: a field notebook in fog, with a goldfinch's colours used sparingly. */
const light = {
  ground: "#E9EEF0",
  sheet: "#FBFCFC",
  shade: "#F1F5F6",
  ink: "#1B2326",
  quiet: "#4E5D63",
  rule: "#C9D3D6",
  line: "#A9B8BD",
  bar: "#1B2326",
  "bar-text": "#DCE4E6",
  "bar-quiet": "#B4C2C7",
  "bar-strong": "#FFFFFF",
  "bar-rule": "#3B4A50",
  finch: "#E8B71A",
  "on-finch": "#1B2326",
  wing: "#1F5C6B",
  moss: "#435E29",
  plum: "#69446F",
  good: "#2C6637",
  caution: "#775300",
  bad: "#A3192E",
  mark: "#F6E3A1",
};

const dark: typeof light = {
  ground: "#14191B",
  sheet: "#1B2225",
  shade: "#20292C",
  ink: "#E3EAEC",
  quiet: "#A3B3B9",
  rule: "#344146",
  line: "#53646B",
  bar: "#0C1012",
  "bar-text": "#DCE4E6",
  "bar-quiet": "#A9B8BD",
  "bar-strong": "#FFFFFF",
  "bar-rule": "#3B4A50",
  finch: "#E8B71A",
  "on-finch": "#1B2326",
  wing: "#86BFCE",
  moss: "#A9C987",
  plum: "#CBA5D1",
  good: "#8CCB99",
  caution: "#DDB75F",
  bad: "#F28C9A",
  mark: "#5C4A0E",
};

export type ThemeName = "light" | "dark";

export const palettes: Record<ThemeName, typeof light> = { light, dark };

/** A style sheet with the palette that the device prefers, where none was chosen. */
export const paletteOfDevice = `:root { color-scheme: light dark; ${declarations("light")} }
@media (prefers-color-scheme: dark) { :root { ${declarations("dark")} } }`;

function declarations(theme: ThemeName): string {
  return Object.entries(paletteVariables(theme))
    .map(([name, value]) => `${name}: ${value};`)
    .join(" ");
}

/** The palette as CSS custom properties: `--ground`, `--sheet` and so on. */
export function paletteVariables(theme: ThemeName): Record<string, string> {
  return Object.fromEntries(Object.entries(palettes[theme]).map(([name, colour]) => [`--${name}`, colour]));
}
