import { useEffect, useState } from "react";
import type { ColouredStretch } from "./colour-stretches";

/** Characters of code that are coloured. */
export const mostColoured = 20_000;
/** Milliseconds that code rests before it is coloured. */
const rest = 200;

/**
 * Code in stretches by what they are in its language, a moment after it is whole; what colours it is fetched then.
 * @param code all of it, also where only a part is shown; undefined while it may still grow
 */
export function useColours(
  code: { text: string; language: string } | undefined,
): readonly ColouredStretch[] | undefined {
  const [coloured, setColoured] = useState<{ text: string; stretches: readonly ColouredStretch[] | undefined }>();
  const { text = "", language = "" } = code ?? {};
  useEffect(() => {
    if (text === "") return;
    let isHere = true;
    const colour = async () => {
      const { colouredStretches } = await import("./colour");
      if (isHere) setColoured({ text, stretches: colouredStretches(text, language) });
    };
    const later = setTimeout(
      () => colour().catch((error) => console.warn(`Code is shown without colours: ${error}`)),
      rest,
    );
    return () => {
      isHere = false;
      clearTimeout(later);
    };
  }, [text, language]);
  return coloured?.text === text ? coloured.stretches : undefined;
}
