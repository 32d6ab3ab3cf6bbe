import type { Pinned } from "@/core/context/assemble";
import { clearFor } from "@/core/context/clear";
import { forecast, withTyped } from "@/core/context/forecast";
import type { Memory } from "@/core/context/policies/policies";
import { isAnswer, rowOf } from "@/core/context/row";
import { askForSummary, batch, recipeOf, usualSummaryPrompt } from "@/core/context/sum-up";
import { fittingSummary, type ToCover } from "@/core/context/summary";
import { isBy, trackOf } from "@/core/context/track";
import type { Message } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import { turnsOf } from "@/core/conversation/turns";
import { type Problem, problem } from "@/core/problem/problem";
import type { Candidate } from "@/core/reply/events";
import type { Content } from "@/core/revision/content";
import { uncalibrated } from "@/core/tokens/calibration";
import type { HasConversations } from "../conversations/conversation-store";
import { type Hanging, hangingOn, type LineNeeds } from "../conversations/line";
import type { StoredSummary } from "../conversations/summary-store";
import type { HasProviders, StoredModel, StoredProvider } from "../providers/provider-store";
import type { Line } from "./types";

/** What of the process is used here. */
export type NextStepNeeds = LineNeeds & HasConversations & HasProviders;

/** A line whose turns can be read, and what hangs on it. */
export interface ReadableLine {
  /** Its last turns, from a visitor's message on. */
  lastTurns(turns: number): readonly Message[];
  /** The messages of the turns from one to another. */
  stretch(from: number, to: number): readonly Message[];
  newest: Message;
  hanging: Hanging;
}

/** One summary that is to be made. */
export interface Step {
  kind: "ready";
  connection: StoredProvider;
  model: StoredModel;
  /** The summary that it goes on from; null where it begins from the beginning. */
  before: string | null;
  /** What the model is asked, and the most tokens of it. */
  text: string;
  tokens: number;
  /** What the summary is going to cover, as it is stored. */
  covers: Pick<StoredSummary, "message" | "turn" | "clear" | "by" | "leftOut" | "recipe">;
}

type SummaryMemory = Extract<Memory, { kind: "summary" }>;

/** Turns that are read at once. */
const stretch = 32;

/**
 * The next summary that is to be made of a line; undefined where none is due.
 * @param on the summary to go on from; null to begin from the beginning; undefined to go on from the newest that fits,
 * if enough is not covered by it
 */
export function nextStep(
  home: NextStepNeeds,
  line: Line,
  on: StoredSummary | null | undefined,
): Step | { kind: "refused"; problem: Problem } | undefined {
  const { conversations, messages } = home;
  const { content, conversation, end } = line;
  const newest = messages.message(end);
  // it may have been deleted meanwhile
  if (content.memory.kind !== "summary" || !conversations.byId(conversation) || !newest) return undefined;
  const readable: ReadableLine = {
    lastTurns: (turns) => messages.lastTurns(end, turns),
    stretch: (from, to) => messages.stretch(end, from, to),
    newest,
    hanging: hangingOn(home, conversation, end, content.memory),
  };
  return stepOn(home, readable, line, on);
}

/** The next summary that is to be made of a line, wherever that is kept. @param on as of `nextStep` */
export function stepOn(
  home: HasProviders,
  readable: ReadableLine,
  line: Pick<Line, "content" | "by" | "window" | "calibration">,
  on: StoredSummary | null | undefined,
): Step | { kind: "refused"; problem: Problem } | undefined {
  const { content } = line;
  const { memory } = content;
  const { hanging } = readable;
  if (memory.kind !== "summary") return undefined;
  const toCover = toCoverOf(readable, line.by, memory);
  if (!toCover) return undefined;
  const recipe = recipeOf(content) ?? "";
  const usable = hanging.summaries.filter((summary) => summary.isCorrected || summary.recipe === recipe);
  // the line may have been cleared meanwhile, or a turn pinned
  if (on && !fittingSummary([on], toCover)) return undefined;
  const before = on === undefined ? fittingSummary(usable, toCover) : on;
  const covered = before?.turn ?? clearFor(hanging.clears, memory, line.by)?.turn ?? 0;
  const turns = turnsToCover(readable, line.by, memory, toCover, covered);
  if (turns.length === 0) return undefined;
  if (on === undefined && turns.length < batch) {
    const newest = fittingSummary(hanging.summaries, toCover);
    const isStale = newest !== null && newest.id !== before?.id;
    if (!isStale && !leavesOut(readable, line, turns[0] as Pinned)) return undefined;
  }
  const summariser = summariserOf(home, content, memory);
  if ("kind" in summariser) return { kind: "refused", problem: summariser };
  const { connection, model } = summariser;
  const prompt = memory.prompt ?? usualSummaryPrompt;
  const asked = askForSummary({ prompt, before: before?.text ?? null, turns, ...model });
  if (!asked) {
    const detail = `${model.name} has a context window of ${model.window} tokens, which is too small to sum up turn ${turns[0]?.visitor.turn}.`;
    return { kind: "refused", problem: problem("too-long", detail, { advice: "Let another model sum up." }) };
  }
  const last = turns[asked.count - 1] as Pinned;
  const { clear, by, pinned } = toCover;
  const leftOut = pinned.filter(({ turn }) => turn <= last.visitor.turn).map(({ id }) => id);
  return {
    kind: "ready",
    connection,
    model,
    before: before?.id ?? null,
    text: asked.text,
    tokens: asked.tokens,
    covers: { message: last.reply.id, turn: last.visitor.turn, clear, by, leftOut, recipe },
  };
}

/** What a summary of a line has to cover; undefined where nothing is older than the turns that are carried in full. */
function toCoverOf(
  { lastTurns, hanging: { clears, pinned } }: ReadableLine,
  by: Candidate,
  memory: SummaryMemory,
): ToCover | undefined {
  const clear = clearFor(clears, memory, by);
  for (let count = memory.turns + stretch; ; count *= 4) {
    const rows = lastTurns(count).map(rowOf);
    const { turns } = trackOf({ rows, clears }, memory, uncalibrated, by);
    const oldest = turns.at(-memory.turns);
    const first = rows[0]?.turn ?? 1;
    if (!oldest && first > (clear?.turn ?? 0) + 1) continue;
    if (!oldest || oldest.number <= (clear?.turn ?? 0) + 1) return undefined;
    return {
      upTo: oldest.number - 1,
      clear: clear?.message ?? null,
      by: memory.apart ? by : null,
      pinned: pinned
        .filter(({ visitor, reply }) => visitor.turn > (clear?.turn ?? 0) && isCoverable(reply, memory, by))
        .map(({ visitor: { id, turn } }) => ({ id, turn })),
    };
  }
}

/** The first turns after one that are to be covered, as many as are read at once. */
function turnsToCover(
  readable: ReadableLine,
  by: Candidate,
  memory: SummaryMemory,
  { upTo, pinned }: ToCover,
  after: number,
): Pinned[] {
  const isPinned = new Set(pinned.map(({ id }) => id));
  for (let from = after + 1; from <= upTo; from += stretch) {
    const read = readable.stretch(from, Math.min(from + stretch - 1, upTo));
    const turns = turnsOf(read).flatMap(({ visitor, reply }): Pinned[] =>
      reply && isCoverable(reply, memory, by) && !isPinned.has(visitor.id) ? [{ visitor, reply }] : [],
    );
    if (turns.length > 0) return turns;
  }
  return [];
}

/** Whether the turn of a reply is remembered by who answers. */
function isCoverable(reply: Message, { apart }: SummaryMemory, by: Candidate): boolean {
  const row = rowOf(reply);
  return isAnswer(row) && (!apart || isBy(row, by));
}

/** Whether the next message, if it is as long as the last one, would leave out turns from one on that are not covered. */
function leavesOut(
  { newest, stretch: read, hanging: { clears, pinned, summaries } }: ReadableLine,
  { content, by, window, calibration }: Pick<Line, "content" | "by" | "window" | "calibration">,
  first: Pinned,
): boolean {
  const line = read(first.visitor.turn, newest.turn);
  const visitor = line.findLast(({ role }) => role === "visitor") ?? newest;
  const atHand = {
    rows: line.map(rowOf),
    clears,
    pinned: pinned.map((pin) => ({ visitor: rowOf(pin.visitor), reply: rowOf(pin.reply) })),
    summaries,
  };
  const ahead = withTyped(
    forecast(content, atHand, { window, calibration, by, maxOutput: content.settings.maxOutput }, Date.now()),
    textOf(visitor),
  );
  return ahead.from > 0 && (ahead.track.turns[ahead.from - 1]?.number ?? 0) >= first.visitor.turn;
}

/** The model that sums up; a problem where it is gone. */
export function summariserOf(
  { providers }: HasProviders,
  content: Content,
  { by }: SummaryMemory,
): { connection: StoredProvider; model: StoredModel } | Problem {
  const wanted = by ?? content;
  const connection = providers.bySlug(wanted.provider);
  const model = connection && providers.model(connection.id, wanted.model);
  const advice = "Choose another one in the Memory station.";
  if (!connection || !model)
    return problem("misconfigured", `The model that sums up, ${wanted.model}, is not there any more.`, { advice });
  return { connection, model };
}
