import { type PicturePiece, type Piece, piecesOf } from "../conversation/pieces";
import type { Problem } from "../problem/problem";
import type { Candidate } from "../reply/events";
import type { Content } from "../revision/content";
import { fillPrompt } from "../revision/variables";
import { type FoundPassage, weighedPassages } from "../sources/found";
import type { Calibration } from "../tokens/calibration";
import { type Counts, countsOfPieces } from "../tokens/counts";
import { everyPlace } from "../wire/places";
import { notTaken, outgrows, problemOfMissing, weighed } from "./assemble";
import { firstOf, leadOf } from "./cache";
import type { Lead } from "./lead";
import type { BesidePart } from "./parts/part";
import { gatherParts } from "./parts/parts";
import { type Reach, type Room, reachOf } from "./reach";
import { type AtHand, type Track, trackOf } from "./track";

/** What is known of what the documents say to a message. */
export interface FromDocuments {
  /** What it finds in them, the best first; undefined where that is not known. */
  found?: readonly FoundPassage[];
  /** Counts of those that go along whole, where what it finds is not known. */
  wholes?: Counts;
}

/** What the next dispatch would carry. */
export interface Forecast extends Reach {
  room: Room;
  /** What stands beside the line, without the message that is typed. */
  beside: readonly BesidePart[];
  /** Why it can't be sent, if it can't. */
  problem?: Problem;
  /** Variables that nothing gives a value. */
  missing: string[];
  /** What stands for its beginning; null where what is typed pushed a part of that out. */
  lead: Lead | null;
}

/**
 * Forecasts the reach of the next dispatch, before a word of its message is typed.
 * @param atHand the end of the conversation's line, as far as it is at hand
 */
export function forecast(
  content: Content,
  atHand: AtHand,
  model: Room & { calibration: Calibration; by: Candidate },
  now: number,
  documents?: FromDocuments,
): Forecast {
  const { calibration, by, ...room } = model;
  return forecastOn(content, trackOf(atHand, content.memory, weighed(calibration, room), by), room, now, documents);
}

/** The forecast on a track that was made before, by the weights of the room. */
export function forecastOn(
  content: Content,
  track: Track,
  room: Room,
  now: number,
  { found, wholes }: FromDocuments = {},
): Forecast {
  const filled = fillPrompt(content, content.samples ?? {}, now);
  const { sources = { documents: [] } } = content;
  const passages = found && weighedPassages(found, sources, track.calibration);
  const beside = gatherParts({
    content,
    prompt: filled.text,
    takesSchema: (room.places ?? everyPlace).takesSchema,
    exchange: { pieces: [], carry: [] },
    wholes,
    passages,
  });
  const ahead = filledOut(track, beside, room, filled.missing);
  return { ...ahead, lead: leadOf(ahead) };
}

/** The forecast with what is typed, and the pictures beside it; it does not go through the line again. */
export function withTyped(ahead: Forecast, text: string, pictures: readonly PicturePiece[] = []): Forecast {
  const typed = [...pictures, ...(text.trim() === "" ? [] : piecesOf(text))];
  if (typed.length === 0) return ahead;
  const { track, beside, room, missing } = ahead;
  const all = { ...filledOut(track, [...beside, typedPart(typed)], room, missing), beside };
  // what is pushed out by what is typed changes the beginning
  const carriedBeside = ({ parts }: Pick<Reach, "parts">) =>
    parts.filter(({ stands, carried }) => carried && (stands === "first" || stands === "before"));
  const isSame = carriedBeside(ahead).length === carriedBeside(all).length;
  return { ...all, lead: ahead.lead && isSame ? { ...ahead.lead, first: firstOf(all) } : null };
}

/** The message that is written now, where it is no row yet. */
function typedPart(typed: readonly Piece[]): BesidePart {
  const holding = { counts: countsOfPieces(typed), messages: 1 };
  return { kind: "message", stands: "after", rank: null, reason: { kind: "newest" }, holding, mark: "" };
}

function filledOut(track: Track, beside: readonly BesidePart[], room: Room, missing: string[]): Omit<Forecast, "lead"> {
  const reach = reachOf(track, beside, room);
  const problem = problemOfMissing(missing) ?? notTaken(reach, room) ?? outgrows(reach, room);
  return { ...reach, room, beside, missing, problem };
}
