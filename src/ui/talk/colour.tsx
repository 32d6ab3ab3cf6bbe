import { common, createLowlight } from "lowlight";
import type { ReactNode } from "react";

/** A node of a coloured text (hast), as far as it is looked at here. */
interface Node {
  type: string;
  value?: string;
  properties?: { className?: unknown };
  children?: Node[];
}

const languages = createLowlight(common);

/** Code with its parts in the colours of its language; as it is where the language is not known. */
export function colour(code: string, language: string): ReactNode {
  const name = language.trim().split(/\s/)[0]?.toLowerCase() ?? "";
  return languages.registered(name) ? shown(languages.highlight(name, code).children as Node[]) : code;
}

function shown(nodes: readonly Node[]): ReactNode {
  return nodes.map((node, at) =>
    node.type === "text" ? (
      node.value
    ) : (
      <span key={at} className={([] as unknown[]).concat(node.properties?.className ?? []).join(" ")}>
        {shown(node.children ?? [])}
      </span>
    ),
  );
}
