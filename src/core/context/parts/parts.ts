import { exchange } from "./exchange";
import { opening } from "./opening";
import type { BesidePart, PartKind, PartSource } from "./part";
import { explaining, passages } from "./passages";
import { prompt } from "./prompt";
import { schema } from "./schema";
import { tools } from "./tools";

/** Every kind of part that stands beside the line, in the order in which they are sent. */
const kinds: PartKind[] = [tools, prompt, schema, explaining, passages, opening, exchange];

/** Has a further kind of part in every context; gives how to take it back. */
export function register(kind: PartKind): () => void {
  kinds.push(kind);
  return () => {
    const at = kinds.indexOf(kind);
    if (at >= 0) kinds.splice(at, 1);
  };
}

/** What stands beside the line in a context, in the order in which it is sent. */
export function gatherParts(source: PartSource): BesidePart[] {
  return kinds.flatMap(({ gather, ...kind }) =>
    [gather(source) ?? []].flat().map((gathered): BesidePart => ({ ...kind, ...gathered })),
  );
}
