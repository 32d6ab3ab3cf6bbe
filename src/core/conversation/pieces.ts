import { z } from "zod";

/** One part of a message's content. */
export const pieceSchema = z.discriminatedUnion("kind", [z.object({ kind: z.literal("text"), text: z.string() })]);
export type Piece = z.infer<typeof pieceSchema>;

/** The text of pieces, joined. */
export function textOf({ pieces }: { pieces: readonly Piece[] }): string {
  const [only, more] = pieces;
  return more === undefined ? (only?.text ?? "") : pieces.map((piece) => piece.text).join("");
}

/** A text as pieces; none for an empty one. */
export function piecesOf(text: string): Piece[] {
  return text === "" ? [] : [{ kind: "text", text }];
}

/** Pieces with a text at their end. */
export function withText(pieces: readonly Piece[], text: string): Piece[] {
  const last = pieces.at(-1);
  if (last?.kind !== "text") return [...pieces, ...piecesOf(text)];
  return [...pieces.slice(0, -1), { kind: "text", text: last.text + text }];
}

/** Pieces one after the other; texts that meet become one. */
export function joined(before: readonly Piece[], after: readonly Piece[]): Piece[] {
  const [first, ...rest] = after;
  return first?.kind === "text" ? [...withText(before, first.text), ...rest] : [...before, ...after];
}

/** Whether pieces say anything. */
export function hasWords({ pieces }: { pieces: readonly Piece[] }): boolean {
  return pieces.some(({ text }) => text.trim() !== "");
}
