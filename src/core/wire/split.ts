import {
  argumentsText,
  joined,
  type Piece,
  piecesOf,
  resultText,
  spoken,
  type ToolPiece,
  wordsOfMade,
} from "../conversation/pieces";
import type { WireMessage } from "./message";
import type { PiecePlaces } from "./places";

/** Who speaks in a message as an API gets it. */
export type SentRole = "system" | "visitor" | "app" | "tool";

/** A part of a message as an API gets it: a call of a tool and its answer are two. */
export type SentPart = Exclude<Piece, { kind: "tool" | "data" }> | { kind: "call" | "result"; of: ToolPiece };

/** A message as an API gets it. */
export interface SentMessage {
  role: SentRole;
  parts: readonly SentPart[];
  /** What the API gave along with it. */
  carry?: unknown;
}

/**
 * A message in as many as an API wants. What an app said with tools is one message with its calls for each round, their
 * answers after it, and what it said in the end.
 */
export function splitMessage({ role, pieces, carry = [] }: WireMessage, results: "each" | "together"): SentMessage[] {
  if (isOneText(pieces)) return [{ role, parts: pieces as SentPart[], carry: carry.at(-1)?.value }];
  const carried = (round: number) => carry.find((each) => each.round === round)?.value;
  const last = carry.at(-1)?.value;
  if (pieces.every(({ kind }) => kind === "text")) return [{ role, parts: pieces as SentPart[], carry: last }];
  const messages: SentMessage[] = [];
  let said: SentPart[] = [];
  let calls: ToolPiece[] = [];
  const endRound = () => {
    const [first] = calls;
    if (!first) return;
    const asked = calls.map((of): SentPart => ({ kind: "call", of }));
    messages.push({ role, parts: [...said, ...asked], carry: carried(first.round) });
    const answers = calls.map((of): SentPart => ({ kind: "result", of }));
    if (results === "together") messages.push({ role: "tool", parts: answers });
    else for (const answer of answers) messages.push({ role: "tool", parts: [answer] });
    said = [];
    calls = [];
  };
  for (const piece of spoken(pieces)) {
    if (piece.kind === "tool") {
      if (calls.length > 0 && calls[0]?.round !== piece.round) endRound();
      calls.push(piece);
      continue;
    }
    endRound();
    said.push(piece.kind === "data" ? { kind: "text", text: JSON.stringify(piece.value) } : piece);
  }
  endRound();
  if (said.length > 0) messages.push({ role, parts: said, carry: last });
  return messages;
}

/** A message without what the API has no place for: pictures are left out, and calls of tools told in words. */
export function fittedMessage(message: WireMessage, places: PiecePlaces): WireMessage {
  // nearly all messages are one text
  if (isOneText(message.pieces)) return message;
  const pieces = message.pieces.reduce<Piece[]>((fitted, piece) => {
    if (piece.kind === "picture" && piece.isMade) return joined(fitted, piecesOf(wordsOfMade(piece)));
    if (piece.kind === "picture" && places.picture !== "taken") return fitted;
    if (piece.kind === "linked" && !(places.picture === "taken" && places.addresses))
      return places.picture === "left-out" ? fitted : joined(fitted, piecesOf(`[picture at ${piece.address}]\n`));
    if (piece.kind === "tool" && places.tool !== "taken") return joined(fitted, piecesOf(toldInWords(piece)));
    return joined(fitted, [piece]);
  }, []);
  // a message that held nothing but pictures stays a message, since roles take turns
  return { ...message, pieces: pieces.length === 0 && message.pieces.length > 0 ? piecesOf("[picture]") : pieces };
}

function isOneText(pieces: readonly Piece[]): boolean {
  return pieces.length === 1 && pieces[0]?.kind === "text";
}

function toldInWords(piece: ToolPiece): string {
  return `[${piece.name} ${argumentsText(piece.arguments)}: ${resultText(piece)}]\n`;
}
