import { withoutMarks } from "../sources/citing";
import type { Piece } from "./pieces";

/**
 * Pieces of a reply as they are carried on: without the marks of the passages that it cites, since the next reply does
 * not have those. A text that is nothing but marks stays.
 */
export function unmarked(pieces: readonly Piece[], cites: readonly { mark: string }[] = []): Piece[] {
  if (cites.length === 0) return [...pieces];
  const marks = new Set(cites.map(({ mark }) => mark));
  return pieces.map((piece) => {
    if (piece.kind !== "text") return piece;
    const text = withoutMarks(piece.text, (mark) => marks.has(mark));
    return text.trim() === "" ? piece : { ...piece, text };
  });
}
