import type { Message } from "../conversation/message";
import { hasWords, type Piece, piecesOf } from "../conversation/pieces";
import { type Problem, problem } from "../problem/problem";
import type { Candidate } from "../reply/events";
import type { Content } from "../revision/content";
import { fillPrompt } from "../revision/variables";
import type { Calibration } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import type { WireMessage } from "../wire/encode";
import { leadOf } from "./cache";
import type { Clear } from "./clear";
import { judgedRows } from "./judged";
import { type Ledger, ledgerOf } from "./ledger";
import { carriedSummary, type Parts, type Reach, type Room, reachOf } from "./reach";
import { type Row, rowOf } from "./row";
import { slipsOf, wordsOfSlip } from "./slips";
import type { SummaryAtHand } from "./summary";
import { trackOf } from "./track";
import { headOf, promptOf, transcriptOf } from "./transcript";

/** What a context is assembled for. */
export interface Asked {
  content: Content;
  /** Values of the prompt's variables, from the call. */
  variables: Record<string, string>;
  /** Who is to answer; what another provider gave along is not for it. */
  by: Candidate;
  /** The model's context window, in tokens. */
  window: number;
  calibration: Calibration;
  /** Epoch milliseconds. */
  now: number;
  /** Those in the line, the last first. */
  clears?: readonly Clear[];
  /** The pinned turns of the line, in order. */
  pinned?: readonly Pinned[];
  /** The summaries of the line with their words, the newest first. */
  summaries?: readonly (SummaryAtHand & { text: string })[];
}

/** A pinned turn with its words. */
export interface Pinned {
  visitor: Message;
  reply: Message;
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
 * @param rows the end of the line to answer: it begins with a visitor's message, and ends with the new one or with the reply
 * that is gone on from
 */
export function measure(asked: Asked, rows: readonly Row[]): Measured {
  const { content, variables, window, calibration, now, clears, summaries, by } = asked;
  const filled = fillPrompt(content, variables, now);
  const missing = problemOfMissing(filled.missing);
  if (missing) return { kind: "refused", problem: missing };
  const room: Room = { window, maxOutput: content.settings.maxOutput };
  const pinned = asked.pinned?.map(({ visitor, reply }) => ({ visitor: rowOf(visitor), reply: rowOf(reply) }));
  const goesOn = rows.at(-1)?.role === "app";
  const track = trackOf({ rows, clears, pinned, goesOn, summaries }, content.memory, calibration, by);
  const reach = reachOf(track, partsOf(content, filled.text), room);
  const outgrown = outgrows(reach, room);
  if (outgrown) return { kind: "refused", problem: outgrown };
  return { kind: "ready", prompt: filled.text, reach };
}

/** What stands in a dispatch beside the line, by counts. */
export function partsOf({ opening = [] }: Content, prompt: string): Parts {
  return {
    prompt: prompt.trim() === "" ? null : countsOf(prompt),
    opening: opening.map(({ visitor, app }) => ({ visitor: countsOf(visitor), app: countsOf(app) })),
    message: null,
  };
}

/**
 * The messages that a dispatch carries, with the ledger that accounts for them; or why there can be no dispatch.
 * @param end the end of the line, as long as the memory policy needs it; it begins with a visitor's message
 * @param above what stands above that end, where all of it is carried
 */
export function assemble(asked: Asked, end: readonly Message[], above: readonly MessageAbove[] = []): Assembled {
  const measured = measure(asked, end.map(rowOf));
  if (measured.kind === "refused") return measured;
  const { prompt, reach } = measured;
  if (reach.above.fate === "unknown") return { kind: "short", of: "end" };
  if (reach.above.fate === "carried" && above.length === 0) return { kind: "short", of: "above" };
  const { answered, unanswered } = parted(afterTurn(above, reach.track.clear?.turn ?? 0));
  const wired = (message: Message): WireMessage => ({
    role: message.role,
    pieces: message.pieces,
    carry: carryOf(message, asked.by.provider),
  });
  const remembered: WireMessage[] = (asked.pinned ?? [])
    .filter(({ visitor }) => reach.pins.get(visitor.id)?.carried && visitor.turn < (end[0]?.turn ?? 0))
    .flatMap(({ visitor, reply }) => [wired(visitor), wired(reply)]);
  for (const { role, pieces, carry } of answered)
    remembered.push({ role, pieces, carry: carry?.provider === asked.by.provider ? carry?.value : undefined });
  const newest: WireMessage[] = [];
  for (const [at, { carried, reason }] of judgedRows(reach).entries())
    if (carried) (reason.kind === "newest" ? newest : remembered).push(wired(end[at] as Message));
  const isText = asked.content.memory.as === "text";
  const head = headOf(prompt, carriedSummary(reach));
  const system = promptOf([head, isText && remembered.length > 0 ? transcriptOf(remembered as Message[]) : ""]);
  const opening = reach.opening?.carried ? (asked.content.opening ?? []) : [];
  const messages: WireMessage[] = [
    ...(system === "" ? [] : [{ role: "system", pieces: piecesOf(system) } as const]),
    ...opening.flatMap(({ visitor, app }): WireMessage[] => [
      { role: "visitor", pieces: piecesOf(visitor) },
      { role: "app", pieces: piecesOf(app) },
    ]),
    ...(isText ? [] : remembered),
    ...newest,
  ];
  const [slip] = slipsOf(messages);
  if (slip) return { kind: "refused", problem: problem("bad-request", wordsOfSlip(slip)) };
  const ledger = ledgerOf(reach, unanswered, asked.window, opening.length * 2);
  return { kind: "ready", messages, ledger: { ...ledger, lead: leadOf(reach, head, opening) } };
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
function parted(above: readonly MessageAbove[]): { answered: MessageAbove[]; unanswered: MessageAbove[] } {
  const answered: MessageAbove[] = [];
  const unanswered: MessageAbove[] = [];
  for (const [at, message] of above.entries()) {
    const reply = message.role === "app" ? message : above[at + 1];
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
export function outgrows(reach: Reach, { window, maxOutput }: Room): Problem | undefined {
  const { tokens, margin, excess, remembered, track } = reach;
  if (excess === 0) return undefined;
  const held = maxOutput === undefined ? "" : `, of which ${maxOutput} are kept for the reply`;
  const most = `About ${tokens} tokens would be sent, give or take ${margin}, and the context window has ${window}${held}: ${excess} too many.`;
  const advice =
    remembered > 0 && track.memory.kind === "everything"
      ? "Carry less than everything in the Memory station, clear above, lower the output limit, or choose a model with a larger window."
      : "Shorten the prompt or the message, lower the output limit, or choose a model with a larger window.";
  return problem("too-long", most, { advice });
}

/** What an API gave along with a reply, for a call of the same provider. */
function carryOf(message: Message, provider: string): unknown {
  return message.role === "app" && message.facts.provider === provider ? message.facts.carry : undefined;
}
