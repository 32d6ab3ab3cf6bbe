import type { Carry, Message } from "../conversation/message";
import { holdsSomething, joined, type Piece, piecesOf } from "../conversation/pieces";
import { unmarked } from "../conversation/unmarked";
import { type Problem, problem } from "../problem/problem";
import type { Candidate } from "../reply/events";
import type { Content } from "../revision/content";
import { fillPrompt } from "../revision/variables";
import { type Cited, type FoundPassage, weighedPassages } from "../sources/found";
import { type Calibration, withKnown } from "../tokens/calibration";
import type { Counts } from "../tokens/counts";
import type { WireMessage } from "../wire/message";
import { everyPlace, knownWeights, type PiecePlaces } from "../wire/places";
import { leadOf } from "./cache";
import type { Clear } from "./clear";
import { judgedRows } from "./judged";
import { type Ledger, ledgerOf } from "./ledger";
import type { PartSource } from "./parts/part";
import { gatherParts } from "./parts/parts";
import { carriedSummary, type Reach, type Room, reachOf } from "./reach";
import { type Row, rowOf } from "./row";
import { slipsOf, wordsOfSlip } from "./slips";
import type { SummaryAtHand } from "./summary";
import { trackOf } from "./track";
import { promptOf, summaryPart, transcriptOf } from "./transcript";

/** What a context is assembled for. */
export interface Asked {
  content: Content;
  /** Values of the prompt's variables, from the call. */
  variables: Record<string, string>;
  /** Who is to answer; what another provider gave along is not for it. */
  by: Candidate;
  /** The model's context window, in tokens. */
  window: number;
  /** What becomes of pieces in its requests; all are taken where nothing is said. */
  places?: PiecePlaces;
  /** The models that see pictures, for one who chose another. */
  seeing?: () => readonly string[];
  calibration: Calibration;
  /** Epoch milliseconds. */
  now: number;
  /** Those in the line, the last first. */
  clears?: readonly Clear[];
  /** The pinned turns of the line, in order. */
  pinned?: readonly Pinned[];
  /** The summaries of the line with their words, the newest first. */
  summaries?: readonly (SummaryAtHand & { text: string })[];
  /** What the reply that is under way said in the rounds that went through. */
  exchange?: PartSource["exchange"];
  /** What the message found in the documents, the best first; undefined where it was not looked for yet. */
  found?: readonly FoundPassage[];
  /** Counts of the documents that go along whole, before it was looked for these. */
  wholes?: Counts;
}

/** A pinned turn with its words. */
export interface Pinned {
  visitor: Message;
  reply: Message;
}

export type Measured = { kind: "ready"; reach: Reach } | { kind: "refused"; problem: Problem };

export type Assembled =
  | { kind: "ready"; messages: WireMessage[]; ledger: Ledger; passages: Cited[] }
  | { kind: "refused"; problem: Problem }
  /** More of the line is needed: a longer end of it, or the words that stand above its end. */
  | { kind: "short"; of: "end" | "above" };

/** A message above the end of a line, of which nothing but its words is needed. */
export interface MessageAbove {
  role: Message["role"];
  pieces: Piece[];
  /** What an API gave along with it, and the provider that did. */
  carry?: { provider: string; rounds: readonly Carry[] | undefined };
  /** The passages that it cites, whose marks are not carried. */
  cites?: readonly { mark: string }[];
}

/**
 * What a dispatch would carry, by counts alone; or why there can be none. The end of the line is enough.
 * @param rows the end of the line to answer: it begins with a visitor's message, and ends with the new one or with the reply
 * that is gone on from
 */
export function measure(asked: Asked, rows: readonly Row[]): Measured {
  const { content, variables, window, places, seeing, now, clears, summaries, by } = asked;
  const filled = fillPrompt(content, variables, now);
  const missing = problemOfMissing(filled.missing);
  if (missing) return { kind: "refused", problem: missing };
  const room: Room = { window, maxOutput: content.settings.maxOutput, places, seeing };
  const pinned = asked.pinned?.map(({ visitor, reply }) => ({ visitor: rowOf(visitor), reply: rowOf(reply) }));
  const goesOn = rows.at(-1)?.role === "app";
  const calibration = weighed(asked.calibration, room);
  const track = trackOf({ rows, clears, pinned, goesOn, summaries }, content.memory, calibration, by);
  const { exchange = { pieces: [], carry: [] }, wholes } = asked;
  const { takesSchema } = places ?? everyPlace;
  const passages = asked.found && weighedPassages(asked.found, content.sources ?? { documents: [] }, calibration);
  const reach = reachOf(
    track,
    gatherParts({ content, prompt: filled.text, takesSchema, exchange, wholes, passages }),
    room,
  );
  const refused = notTaken(reach, room) ?? outgrows(reach, room);
  return refused ? { kind: "refused", problem: refused } : { kind: "ready", reach };
}

/** What is known of how a model counts, for that which its API is sent of pieces. */
export function weighed(calibration: Calibration, { places = everyPlace }: Pick<Room, "places">): Calibration {
  const known = knownWeights(places);
  return Object.keys(known).length === 0 ? calibration : withKnown(calibration, known);
}

/** The problem of a context with something in it that the API has no place for, if there is such a thing. */
export function notTaken(
  { holding, parts }: Reach,
  { places = everyPlace, seeing = () => [] }: Room,
): Problem | undefined {
  const { pictures, calls } = holding.counts;
  if (pictures > 0 && places.picture === "unseen") return unseen(seeing());
  const hasTools = parts.some(({ kind, carried }) => kind === "tools" && carried);
  const what =
    pictures > 0 && places.picture === "refused"
      ? "pictures"
      : calls > 0 && places.tool === "refused"
        ? "calls of tools"
        : hasTools && !places.offersTools
          ? "tools"
          : undefined;
  if (what === undefined) return undefined;
  return problem(
    "no-place",
    `The request that this provider gets has no place for ${what}, and ${what} would be sent.`,
    {
      advice: `Choose a model that takes ${what}, give them a place in the provider's wire profile, or clear the conversation above.`,
    },
  );
}

function unseen(seeing: readonly string[]): Problem {
  const others = seeing.length === 0 ? "No model at this bench is known to see them." : `Choose ${anyOf(seeing)}.`;
  return problem("no-place", "This model sees no pictures, and pictures would be sent.", {
    advice: `${others} Or clear the conversation above.`,
  });
}

function anyOf(names: readonly string[]): string {
  return new Intl.ListFormat("en", { type: "disjunction" }).format(names);
}

/**
 * The messages that a dispatch carries, with the ledger that accounts for them; or why there can be no dispatch.
 * @param end the end of the line, as long as the memory policy needs it; it begins with a visitor's message
 * @param above what stands above that end, where all of it is carried
 */
export function assemble(asked: Asked, end: readonly Message[], above: readonly MessageAbove[] = []): Assembled {
  const measured = measure(asked, end.map(rowOf));
  if (measured.kind === "refused") return measured;
  const { reach } = measured;
  if (reach.above.fate === "unknown") return { kind: "short", of: "end" };
  if (reach.above.fate === "carried" && above.length === 0) return { kind: "short", of: "above" };
  const { answered, unanswered } = parted(afterTurn(above, reach.track.clear?.turn ?? 0));
  const wired = (message: Message): WireMessage => ({
    role: message.role,
    pieces: unmarked(message.pieces, message.role === "app" ? message.facts.cites : undefined),
    carry: carryOf(message, asked.by.provider),
  });
  const remembered: WireMessage[] = (asked.pinned ?? [])
    .filter(({ visitor }) => reach.pins.get(visitor.id)?.carried && visitor.turn < (end[0]?.turn ?? 0))
    .flatMap(({ visitor, reply }) => [wired(visitor), wired(reply)]);
  for (const { role, pieces, cites, carry } of answered)
    remembered.push({
      role,
      pieces: unmarked(pieces, cites),
      carry: carry?.provider === asked.by.provider ? carry?.rounds : undefined,
    });
  const newest: WireMessage[] = [];
  for (const [at, { carried, reason }] of judgedRows(reach).entries())
    if (carried) (reason.kind === "newest" ? newest : remembered).push(wired(end[at] as Message));
  const messages = inOrder(reach, remembered, newest, asked.content.memory.as === "text");
  const [slip] = slipsOf(messages);
  if (slip) return { kind: "refused", problem: problem("bad-request", wordsOfSlip(slip)) };
  const ledger = { ...ledgerOf(reach, unanswered, asked.window), lead: leadOf(reach) };
  return { kind: "ready", messages, ledger, passages: citable(reach, asked.found ?? []) };
}

/** Characters that are kept of a passage that is cited: all of one, and the beginning of a document that went along whole. */
const longestCited = 20_000;

/** The passages that are carried, as they may be cited. */
function citable({ parts }: Reach, found: readonly FoundPassage[]): Cited[] {
  return parts.flatMap(({ carried, passage }): Cited[] => {
    const own = carried && found.find((each) => each.passage === passage?.passage);
    if (!own || !passage) return [];
    const { short: _short, likeness: _likeness, ...about } = own;
    return [{ mark: passage.mark, ...about, text: about.text.slice(0, longestCited) }];
  });
}

/** All that is carried, in the order in which it is sent. */
function inOrder(reach: Reach, remembered: WireMessage[], newest: WireMessage[], isText: boolean): WireMessage[] {
  const carried = reach.parts.filter((part) => part.carried);
  const summary = carriedSummary(reach);
  const system = promptOf([
    ...carried.map(({ words = "" }) => words),
    summary === undefined ? "" : summaryPart(summary),
    isText && remembered.length > 0 ? transcriptOf(remembered as Message[]) : "",
  ]);
  const of = (stands: "before" | "after") =>
    carried.flatMap((part) => (part.stands === stands ? (part.messages ?? []) : []));
  const ahead = promptOf(carried.map(({ ahead = "" }) => ahead));
  return [
    ...(system === "" ? [] : [{ role: "system", pieces: piecesOf(system) } as const]),
    ...of("before"),
    ...(isText ? [] : remembered),
    ...of("after").reduce(withNext, withAhead(newest, ahead)),
  ];
}

/** The newest messages, the first of which has a text before its own words. */
function withAhead(newest: readonly WireMessage[], ahead: string): WireMessage[] {
  const [first, ...others] = newest;
  if (!first || ahead === "") return [...newest];
  return [{ ...first, pieces: joined(piecesOf(`${ahead}\n\n`), first.pieces) }, ...others];
}

/** Messages with one more; what the app goes on with is one message with what it said before. */
function withNext(messages: WireMessage[], next: WireMessage): WireMessage[] {
  const last = messages.at(-1);
  if (last?.role !== "app" || next.role !== "app") return [...messages, next];
  const carry = [...(last.carry ?? []), ...(next.carry ?? [])];
  return [...messages.slice(0, -1), { role: "app", pieces: joined(last.pieces, next.pieces), carry }];
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
    (reply !== undefined && holdsSomething(reply) ? answered : unanswered).push(message);
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

/** What an API gave along with the rounds of a reply, for a call of the same provider. */
function carryOf(message: Message, provider: string): readonly Carry[] | undefined {
  return message.role === "app" && message.facts.provider === provider ? message.facts.carry : undefined;
}
