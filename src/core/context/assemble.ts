import type { Message } from "../conversation/message";
import { hasWords, type Piece, piecesOf } from "../conversation/pieces";
import { type Problem, problem } from "../problem/problem";
import type { Content } from "../revision/revision";
import { fillPrompt } from "../revision/variables";
import type { Calibration } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import type { WireMessage } from "../wire/encode";
import type { Clear } from "./clear";
import { type Ledger, ledgerOf } from "./ledger";
import { type Reach, type Room, type Row, reach, rowOf } from "./reach";
import { slipsOf } from "./slips";

/** What a context is assembled for. */
export interface Asked {
  content: Content;
  /** Values of the prompt's variables, from the call. */
  variables: Record<string, string>;
  /** The name of the provider that is to answer; what another one gave along is not for it. */
  provider?: string;
  /** The model's context window, in tokens. */
  window: number;
  calibration: Calibration;
  /** Epoch milliseconds. */
  now: number;
  /** The last one in the line. */
  clear?: Clear | null;
}

export type Measured = { kind: "ready"; prompt: string; reach: Reach } | { kind: "refused"; problem: Problem };

export type Assembled =
  | { kind: "ready"; messages: WireMessage[]; ledger: Ledger }
  | { kind: "refused"; problem: Problem }
  /** More of the line is needed: a longer end of it, or the words that stand above its end. */
  | { kind: "short"; of: "end" | "above" };

/** A message above the end of a line, of which nothing but its words is needed. */
export interface MessageAbove {
  role: Message["role"];
  pieces: Piece[];
  /** What an API gave along with it, and the provider that did. */
  carry?: { provider: string; value: unknown };
}

/**
 * What a dispatch would carry, by counts alone; or why there can be none. The end of the line is enough.
 * @param rows the end of the line to answer: it ends with the new message, or with the reply that is gone on from
 */
export function measure(
  { content, variables, window, calibration, now, clear = null }: Asked,
  rows: readonly Row[],
): Measured {
  const filled = fillPrompt(content.prompt, { ...content.variables, ...variables }, now);
  const missing = problemOfMissing(filled.missing);
  if (missing) return { kind: "refused", problem: missing };
  const hasPrompt = filled.text.trim() !== "";
  const room: Room = { window, maxOutput: content.settings.maxOutput, calibration };
  const parts = { prompt: hasPrompt ? countsOf(filled.text) : null, message: null };
  const reached = reach(rows, parts, content.memory, room, clear);
  const outgrown = outgrows(reached.tokens, room);
  if (outgrown) return { kind: "refused", problem: outgrown };
  return { kind: "ready", prompt: hasPrompt ? filled.text : "", reach: reached };
}

/**
 * The messages that a dispatch carries, with the ledger that accounts for them; or why there can be no dispatch.
 * @param end the end of the line, as long as the memory policy needs it
 * @param above what stands above that end, where all of it is carried
 */
export function assemble(asked: Asked, end: readonly Message[], above: readonly MessageAbove[] = []): Assembled {
  const measured = measure(asked, end.map(rowOf));
  if (measured.kind === "refused") return measured;
  const { prompt, reach: reached } = measured;
  if (reached.above.fate === "unknown") return { kind: "short", of: "end" };
  if (reached.above.fate === "carried" && above.length === 0) return { kind: "short", of: "above" };
  const { answered, unanswered } = parted(afterTurn(above, asked.clear?.turn ?? 0), end[0]);
  const messages: WireMessage[] = [];
  if (prompt !== "") messages.push({ role: "system", pieces: piecesOf(prompt) });
  for (const { role, pieces, carry } of answered)
    messages.push({ role, pieces, carry: carry?.provider === asked.provider ? carry?.value : undefined });
  for (const [at, message] of end.entries())
    if (reached.rows[at]?.carried)
      messages.push({ role: message.role, pieces: message.pieces, carry: carryOf(message, asked.provider) });
  const [slip] = slipsOf(messages);
  if (slip)
    return { kind: "refused", problem: problem("bad-request", `Message ${slip.at} of the context: ${slip.reason}.`) };
  return { kind: "ready", messages, ledger: ledgerOf(reached, unanswered, asked.window) };
}

/** What comes after a turn: each turn begins with what the visitor said. */
function afterTurn(above: readonly MessageAbove[], turn: number): readonly MessageAbove[] {
  if (turn === 0) return above;
  let passed = 0;
  return above.filter(({ role }) => {
    if (role === "visitor") passed += 1;
    return passed > turn;
  });
}

/** What stands above the end of a line, by whether its turn has an answer. */
function parted(
  above: readonly MessageAbove[],
  next: Message | undefined,
): { answered: MessageAbove[]; unanswered: MessageAbove[] } {
  const answered: MessageAbove[] = [];
  const unanswered: MessageAbove[] = [];
  for (const [at, message] of above.entries()) {
    const reply = message.role === "app" ? message : (above[at + 1] ?? next);
    (reply !== undefined && hasWords(reply) ? answered : unanswered).push(message);
  }
  return { answered, unanswered };
}

/** The problem of a prompt with variables that nothing gives a value, if there are any. */
export function problemOfMissing(names: readonly string[]): Problem | undefined {
  if (names.length === 0) return undefined;
  const written = names.map((name) => `{{${name}}}`).join(", ");
  return problem("bad-request", `The system prompt holds ${written}, and nothing gives a value.`, {
    advice: "Give it in `variables`, or in the Prompt station.",
  });
}

/** The problem of a context that does not fit its window together with the reply, if it does not. */
export function outgrows(tokens: number, { window, maxOutput }: Room): Problem | undefined {
  const room = window - (maxOutput ?? 1);
  if (tokens <= room) return undefined;
  const held = maxOutput === undefined ? "" : `, of which ${maxOutput} are kept for the reply`;
  return problem(
    "too-long",
    `About ${tokens} tokens would be sent, and the context window has ${window}${held}: ${tokens - room} too many.`,
  );
}

/** What an API gave along with a reply, for a call of the same provider. */
function carryOf(message: Message, provider: string | undefined): unknown {
  return message.role === "app" && message.facts.provider === provider ? message.facts.carry : undefined;
}
