import { inkOn, readableOn } from "@/core/look/contrast";
import type { Look } from "@/core/look/look";

/** What the page shows of a look; its style sheet is linked beside it. */
export type Dress = Omit<Look, "style">;

/** What text of the page stands on, light and dark. */
export const grounds = { light: "#f8f6f0", dark: "#15191b" } as const;

/** The colours of a look, as what the style sheet takes its own from: a developer's sheet goes before it. */
export function colourVariables({ accent }: Pick<Look, "accent">): Record<string, string> {
  return {
    "--look-accent": accent,
    "--look-on-accent": inkOn(accent),
    "--look-on-light": readableOn(accent, grounds.light),
    "--look-on-dark": readableOn(accent, grounds.dark),
  };
}
