import { common, createLowlight } from "lowlight";
import type { ColouredStretch } from "./colour-stretches";

/** A node of a coloured text (hast), as far as it is looked at here. */
interface Node {
  type: string;
  value?: string;
  properties?: { className?: unknown };
  children?: Node[];
}

const languages = createLowlight(common);

/** Code in stretches by what they are in its language; undefined where the language is not known. */
export function colouredStretches(code: string, language: string): ColouredStretch[] | undefined {
  if (!languages.registered(language)) return undefined;
  const stretches: ColouredStretch[] = [];
  const add = (nodes: readonly Node[], classes: string) => {
    for (const { type, value = "", properties, children = [] } of nodes)
      if (type === "text") stretches.push({ text: value, classes });
      else add(children, ([] as unknown[]).concat(properties?.className ?? []).join(" "));
  };
  add(languages.highlight(language, code).children as Node[], "");
  return stretches;
}
