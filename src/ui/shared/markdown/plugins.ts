/** A node of a Markdown tree (mdast), as far as it is looked at here. */
interface Node {
  type: string;
  value?: string;
  identifier?: string;
  children?: Node[];
}

/** Levels that a tree may have. */
const deepest = 60;

/** Refuses a tree that is nested deeper than a page can be. */
export function shallow() {
  return (tree: Node): void => {
    const left: [node: Node, depth: number][] = [[tree, 0]];
    for (let next = left.pop(); next; next = left.pop()) {
      const [node, depth] = next;
      if (depth > deepest) throw new Error("The text is nested too deep.");
      for (const child of node.children ?? []) left.push([child, depth + 1]);
    }
  };
}

/** Footnotes as they are written: a block is read by itself, and what they refer to may stand in another one. */
export function plainNotes() {
  return (tree: Node): void => {
    const left: Node[] = [tree];
    for (let node = left.pop(); node; node = left.pop()) {
      node.children = node.children?.map((child) => {
        if (child.type === "footnoteReference") return { type: "text", value: `[^${child.identifier}]` };
        if (child.type !== "footnoteDefinition") return child;
        const mark: Node = { type: "paragraph", children: [{ type: "text", value: `[^${child.identifier}]:` }] };
        return { type: "blockquote", children: [mark, ...(child.children ?? [])] };
      });
      left.push(...(node.children ?? []));
    }
  };
}
