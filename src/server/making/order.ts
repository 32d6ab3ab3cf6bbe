import { type Asked, assemble, type MessageAbove } from "@/core/context/assemble";
import type { Message } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import type { Guard } from "@/core/guards/guard";
import { placesFor } from "@/core/provider/places";
import { clockVariables } from "@/core/revision/clock";
import type { Content, Settings } from "@/core/revision/content";
import { fillPrompt } from "@/core/revision/variables";
import { turnsBefore } from "@/core/sources/self-contained";
import { offeredOf, usualRounds, usualTogether } from "@/core/tools/tool";
import { typedOf } from "@/core/typed/reading";
import type { WireMessage } from "@/core/wire/message";
import type { Traffic } from "../exchange/traffic";
import { guardedSchemas } from "../ground/schemas";
import type { Rank } from "./gate";
import { guardsOf, masked } from "./guarding";
import type { Order, OrderGuards, Speaker, Tools } from "./types";

/** A line that is answered, and what hangs on it: its end is read first, and more of it as far as it is wanted. */
export interface Line extends Pick<Asked, "clears" | "pinned" | "summaries"> {
  /** Its last turns, from a visitor's message on. */
  lastTurns(turns: number): readonly Message[];
  /** What stands above a message of it. */
  above(message: Message): MessageAbove[];
}

/** What is asked for on a content, beside the line. */
export interface OrderOf {
  content: Content;
  /** Values of the prompt's variables, from the call. */
  variables: Record<string, string>;
  /** The settings of this take: its seed is its own. */
  settings: Settings;
  line: Line;
  speakers: Order["speakers"];
  rank: Rank;
  takes: number;
  /** What the reply said before, and the rounds of calls that it had. */
  begun: { text: string; rounds: number };
  /** Whether a reply that does not fit its schema is asked for once more; so it is where nothing is said. */
  mends?: boolean;
  /** Answers the calls of the content's tools. */
  call: Tools["call"];
  /** Whether tools are to be called, and one at a time alone. */
  choice?: Tools["choice"];
  isSingle?: Tools["isSingle"];
  hold?: Order["hold"];
  /** Has a model judge a reply, where a guard wants that. */
  judge?: OrderGuards["judge"];
  /** Answers that were recorded, or are. */
  traffic?: Traffic;
  /** Finds passages for a message in the documents of the content. @param before what was said before it, the newest last */
  find(message: string, before: readonly Message[], signal: AbortSignal): Found | Promise<Found>;
  /** Epoch milliseconds. */
  now: number;
}

type Found = NonNullable<Asked["found"]>;

/** Turns of a line that are read at first. */
const turnsFirst = 32;

/** The order for a reply to a line, on a content: whoever wants one, for whatever reason, has it made from this. */
export function orderFor({ content, line, begun, rank, speakers, settings, takes, ...of }: OrderOf): Order {
  const { tools = [], rounds = usualRounds, together = usualTogether, schema } = content;
  return {
    rank,
    speakers,
    gather: gathering(content, line, of),
    settings,
    streams: true,
    takes,
    begun: begun.text.length,
    begunEnd: begun.text.slice(-2_000),
    guards: guardsOf(content, textOfNewest(line), of),
    tools:
      tools.length === 0
        ? undefined
        : {
            offered: offeredOf(tools),
            rounds,
            together,
            answerers: new Map(tools.map(({ name, answer }) => [name, answer.by])),
            firstRound: begun.rounds + 1,
            choice: of.choice,
            isSingle: of.isSingle,
            call: of.call,
          },
    form: schema && {
      schema,
      begun: begun.text,
      mends: of.mends ?? true,
      read: (text) => typedOf(text, schema, guardedSchemas),
    },
    hold: of.hold,
    traffic: of.traffic && { by: of.traffic, leave: namesLeft(content, of.variables, of.now) },
  };
}

/**
 * Gives a request as it would be if its prompt had the names of what the clock says in it: so it is looked up the same
 * at any time.
 */
function namesLeft(content: Content, variables: Record<string, string>, now: number): (text: string) => string {
  const names = Object.fromEntries(clockVariables.map((name) => [name, `{{${name}}}`]));
  const filled = fillPrompt(content, variables, now).text;
  const left = fillPrompt(content, { ...names, ...variables }, now).text;
  if (filled === left || filled === "") return (text) => text;
  // as it stands in JSON, and as it stands in what is none
  const within = (text: string) => JSON.stringify(text).slice(1, -1);
  return (text) => text.replaceAll(within(filled), within(left)).replaceAll(filled, left);
}

/** The order for messages that are sent as they are, apart from any line: nobody accounts for them, and no tool may be asked for. */
export function plainOrder(of: {
  speaker: Speaker;
  messages: WireMessage[];
  settings: Settings;
  rank: Rank;
  streams?: boolean;
  request?: Order["request"];
  traffic?: Traffic;
  /** The guards of the app that it is made for, and the app's own words: what is masked for one model is for all. */
  guards?: readonly Guard[];
  own?: readonly string[];
}): Order {
  const { speaker, messages, settings, rank, streams = true, request, traffic, guards = [], own = [] } = of;
  return {
    rank,
    speakers: [speaker],
    gather: () => masked({ kind: "ready", messages, ledger: null }, guards, own),
    settings,
    streams,
    takes: 1,
    begun: 0,
    request,
    traffic: traffic && { by: traffic, leave: (text) => text },
  };
}

/** What the visitor said last. */
function textOfNewest(line: Line): string {
  const newest = line.lastTurns(1).find(({ role }) => role === "visitor");
  return newest ? textOf(newest) : "";
}

/** What the visitor's newest message finds. */
async function findFor(line: Line, find: OrderOf["find"], signal: AbortSignal): Promise<Found> {
  const end = line.lastTurns(turnsBefore + 1);
  const at = end.findLastIndex(({ role }) => role === "visitor");
  const asked = end[at];
  return asked ? find(textOf(asked), end.slice(0, at), signal) : [];
}

/** Gathers what a model is sent, for each model anew, since each has a window of its own. */
function gathering(
  content: Content,
  line: Line,
  { variables, now, find }: Pick<OrderOf, "variables" | "now" | "find">,
): Order["gather"] {
  const { clears, pinned, summaries } = line;
  const hasDocuments = (content.sources?.documents.length ?? 0) > 0;
  // the same for all who are asked, and for all rounds
  let found: Found | undefined;
  const ownWords = (passages: Found = []) => [
    // what a call gives for its variables is the caller's
    fillPrompt(content, {}, now).text,
    ...(content.opening ?? []).map(({ app }) => app),
    ...passages.map(({ text }) => text),
  ];
  return async ({ connection, model }, exchange, signal) => {
    if (hasDocuments) found ??= await findFor(line, find, signal);
    const { window, calibration, name } = model;
    const by = { provider: connection.slug, model: name };
    const places = placesFor(connection.profile, model);
    const asked = {
      content,
      variables,
      by,
      window,
      places,
      calibration,
      now,
      clears,
      pinned,
      summaries,
      exchange,
      found,
    };
    let above: MessageAbove[] = [];
    for (let turns = turnsFirst; ; ) {
      const end = line.lastTurns(turns);
      const assembled = assemble(asked, end, above);
      if (assembled.kind !== "short") return masked(assembled, content.guards ?? [], ownWords(found));
      if (assembled.of === "end") turns *= 4;
      else above = line.above(end[0] as Message);
    }
  };
}
