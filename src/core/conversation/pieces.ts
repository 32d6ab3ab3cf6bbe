import { z } from "zod";
import { answerers } from "../tools/tool";

/** What is known of a call of a tool: it waits for its answer, has it, or got none, and why. */
export const toolOutcomes = [
  "waiting",
  "answered",
  /** The tool said that it could not do it, or could not be reached. */
  "failed",
  "timed-out",
  /** It was not called: there is no such tool, or it does not take these arguments. */
  "refused",
  /** It was not called, since a person who was asked said so. */
  "declined",
  "stopped",
  /** The process died between the call and its answer: nobody knows whether it happened. */
  "unknown",
] as const;
export type ToolOutcome = (typeof toolOutcomes)[number];

/** What a picture may be, as its bytes say (RFC 2046 media types). */
export const pictureTypes = ["image/png", "image/jpeg", "image/webp", "image/gif"] as const;

export const textPiece = z.object({ kind: z.literal("text"), text: z.string() });
/** A picture that is kept: the SHA-256 of its bytes, and its size in pixels. */
export const pictureSchema = z.object({
  file: z.string(),
  type: z.enum(pictureTypes),
  width: z.int(),
  height: z.int(),
  /** Whether a model made it: it is told of at later turns, and not sent. */
  isMade: z.literal(true).optional(),
});
export const picturePiece = pictureSchema.extend({ kind: z.literal("picture") });
/** A picture that stands at an address of its caller's: the address is passed on, and never fetched here. */
export const linkedPiece = z.object({ kind: z.literal("linked"), address: z.string() });
/** A call of a tool with its answer: one can't be sent without the other. */
export const toolCallSchema = z.object({
  /** The round of calls that it belongs to, from 1: the calls of one round were asked for together. */
  round: z.int(),
  /** The id under which the model asked for it, unlike all others of its round. */
  call: z.string(),
  name: z.string(),
  /** As the model gave them; a text where that was no JSON. */
  arguments: z.json(),
  outcome: z.enum(toolOutcomes),
  /** Whether whoever is answered was asked before it was called. */
  asks: z.literal(true).optional(),
  /** Who answers it; nobody, where there is no such tool. */
  by: z.enum(answerers).optional(),
  /** Whom it waits for, where that is not the tool: whoever is answered, to allow it; the developer, or the caller, to answer it. */
  waitsFor: z.enum(["leave", "hand", "caller"]).optional(),
  /** What the tool said, or why it said nothing. */
  result: z.string().optional(),
  /** Milliseconds that it took. */
  ms: z.number().optional(),
});
export const toolPiece = toolCallSchema.extend({ kind: z.literal("tool") });
/** What a reply is as data; beside a text, that text as it is read. */
export const dataSchema = z.object({ value: z.json() });
export const dataPiece = dataSchema.extend({ kind: z.literal("data") });

/** One part of a message's content. */
export const pieceSchema = z.discriminatedUnion("kind", [textPiece, picturePiece, linkedPiece, toolPiece, dataPiece]);
export type Piece = z.infer<typeof pieceSchema>;
export const pieceKinds = ["text", "picture", "linked", "tool", "data"] as const satisfies Piece["kind"][];
export type PieceKind = Piece["kind"];
export type PicturePiece = z.infer<typeof picturePiece>;
export type ToolPiece = z.infer<typeof toolPiece>;

interface HasPieces {
  pieces: readonly Piece[];
}

/** The text of pieces, joined: what is left of them for whoever knows no other kind. */
export function textOf({ pieces }: HasPieces): string {
  const [only, more] = pieces;
  return more === undefined && only?.kind === "text" ? only.text : spoken(pieces).map(ownText).join("");
}

/** Pieces without the data that their text says already. */
export function spoken(pieces: readonly Piece[]): readonly Piece[] {
  const hasData = pieces.some(({ kind }) => kind === "data");
  const hasText = pieces.some((piece) => piece.kind === "text" && piece.text !== "");
  return hasData && hasText ? pieces.filter(({ kind }) => kind !== "data") : pieces;
}

function ownText(piece: Piece): string {
  if (piece.kind === "text") return piece.text;
  return piece.kind === "data" ? JSON.stringify(piece.value) : "";
}

/** All that pieces say in words, the calls of tools and their answers too: for finding them again. */
export function wordsOf({ pieces }: HasPieces): string {
  return spoken(pieces)
    .map((piece) => (piece.kind === "tool" ? toolWords(piece).join("\n") : ownText(piece)))
    .join("\n");
}

/** What a call of a tool holds in words: its name, its arguments, its answer. */
export function toolWords(piece: ToolPiece): [string, string, string] {
  return [piece.name, argumentsText(piece.arguments), resultText(piece)];
}

/** What a model is told that a call came to. */
export function resultText({ outcome, result }: Pick<ToolPiece, "outcome" | "result">): string {
  return result ?? withoutResult[outcome];
}

const withoutResult: Record<ToolOutcome, string> = {
  waiting: "It has not answered yet.",
  answered: "",
  failed: "It failed.",
  "timed-out": "It did not answer in time.",
  refused: "It was not called.",
  declined: "It was not called: the person who was asked whether it may be said no.",
  stopped: "It was stopped before it answered.",
  unknown: "It is not known whether it was done.",
};

/** The arguments of a call as the text that a model writes them as. */
export function argumentsText(given: ToolPiece["arguments"]): string {
  return typeof given === "string" ? given : JSON.stringify(given);
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

/** Pieces with one more: what is newly known of a call takes the place of what was, and data that of the data before. */
export function withPiece(pieces: readonly Piece[], piece: Piece): Piece[] {
  if (piece.kind === "text") return withText(pieces, piece.text);
  const at = pieces.findIndex((each) => isSame(each, piece));
  return at < 0 ? [...pieces, piece] : pieces.with(at, piece);
}

function isSame(a: Piece, b: Piece): boolean {
  if (a.kind === "data") return b.kind === "data";
  return a.kind === "tool" && b.kind === "tool" && a.round === b.round && a.call === b.call;
}

/** Pieces one after the other; texts that meet become one. */
export function joined(before: readonly Piece[], after: readonly Piece[]): Piece[] {
  const [first, ...rest] = after;
  return first?.kind === "text" ? [...withText(before, first.text), ...rest] : [...before, ...after];
}

/** The kinds of pieces that hold something, each once; white space alone is nothing. */
export function kindsOf({ pieces }: HasPieces): PieceKind[] {
  return [...new Set(pieces.filter(isSomething).map(({ kind }) => kind))];
}

/** Whether pieces hold anything. */
export function holdsSomething({ pieces }: HasPieces): boolean {
  return pieces.some(isSomething);
}

function isSomething(piece: Piece): boolean {
  return piece.kind !== "text" || piece.text.trim() !== "";
}

/** The calls of tools among pieces. */
export function toolsIn({ pieces }: HasPieces): ToolPiece[] {
  return pieces.filter((piece) => piece.kind === "tool");
}

/** What a model is told of a picture that one made before. */
export function wordsOfMade({ width, height }: Pick<PicturePiece, "width" | "height">): string {
  return `[a picture that was made, ${width} by ${height} pixels]`;
}

/** A picture in a text, after so many of its characters. */
export interface PlacedPicture {
  at: number;
  picture: PicturePiece;
}

/** The pieces of a text with pictures in it. */
export function withPictures(text: string, pictures: readonly PlacedPicture[]): Piece[] {
  const pieces: Piece[] = [];
  let from = 0;
  for (const { at, picture } of pictures) {
    pieces.push(...piecesOf(text.slice(from, at)), picture);
    from = at;
  }
  return [...pieces, ...piecesOf(text.slice(from))];
}

/**
 * The pieces of a reply by the rows that they stand in: each call of a tool has its own, and so has what is said between
 * calls. @returns those up to the last call, and what follows it
 */
export function rowsOf({ pieces }: HasPieces): { before: (ToolPiece | Piece[])[]; last: readonly Piece[] } {
  const after = pieces.findLastIndex(({ kind }) => kind === "tool") + 1;
  const before: (ToolPiece | Piece[])[] = [];
  for (const piece of pieces.slice(0, after)) {
    const said = before.at(-1);
    if (piece.kind === "tool") before.push(piece);
    else if (Array.isArray(said)) said.push(piece);
    else before.push([piece]);
  }
  return { before, last: pieces.slice(after) };
}

/** The last round of calls among pieces; 0 where there is none. */
export function lastRound({ pieces }: HasPieces): number {
  return toolsIn({ pieces }).reduce((last, { round }) => Math.max(last, round), 0);
}

/** Pieces of a reply that a dead process left: of a call without an answer nobody knows whether it happened. */
export function leftPieces(pieces: readonly Piece[]): Piece[] {
  return pieces.flatMap((piece): Piece[] => {
    // data that had not come to its end is no data
    if (piece.kind === "data") return [];
    return [piece.kind === "tool" && piece.outcome === "waiting" ? { ...piece, outcome: "unknown" } : piece];
  });
}
