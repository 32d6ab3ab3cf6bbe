import { fewestLanes, type LaneBase, mostLanes } from "@/core/comparing/lane";
import type { Content } from "@/core/revision/content";
import { sound } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasContents } from "../apps/content-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasRemoval } from "../database/slices";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { ComparisonStore, HasComparisons, StoredComparison, StoredLane } from "./comparison-store";
import { type CopiedLine, type CopyNeeds, copyOfLine } from "./lane-line";
import type { HasLaneRunner } from "./lane-runner";

/** What of the process is used here. */
export type ComparingNeeds = CopyNeeds &
  HasComparisons &
  HasLaneRunner &
  HasApps &
  HasContents &
  HasHub &
  HasChanges &
  HasRemoval;

/** A candidate that a lane is to be: what it was chosen as, and its content. */
export interface WantedLane {
  base: LaneBase;
  content: Content;
}

/** The comparison of an id. @throws {Refusal} `not-found` */
export function comparisonAt({ comparisons }: HasComparisons, id: string): StoredComparison {
  return comparisons.byId(id) ?? refuse("not-found", `There is no comparison ${id}.`);
}

/** Makes a comparison, and asks its lanes. @throws {Refusal} */
export async function makeComparison(
  home: ComparingNeeds,
  app: StoredApp,
  wanted: { name?: string; lanes: readonly WantedLane[]; after?: string | null; message: string },
): Promise<StoredComparison> {
  const { comparisons, database } = home;
  const start = await startOf(home, app, wanted.after ?? null);
  const now = Date.now();
  const comparison = database
    .transaction(() => {
      const made = comparisons.add({ app: app.id, name: wanted.name ?? null, ...start, now });
      for (const [place, lane] of wanted.lanes.entries()) addLane(home, app, made.id, place, lane);
      comparisons.addTurn(made.id, wanted.message, now);
      return made;
    })
    .immediate();
  bringUp(home, comparison.id);
  return comparison;
}

/** Where all lanes of a comparison begin: after a line of its own, so that nothing is lost with the conversation it is of. */
async function startOf(home: ComparingNeeds, app: StoredApp, after: string | null) {
  if (after === null) return { startsAfter: null, startsIn: null };
  const message = home.messages.message(after);
  const of = message && home.conversations.conversationOf(after);
  if (!message || of?.app !== app.id)
    refuse("not-found", `There is no message ${after} in a conversation of ${app.name}.`);
  // a visitor's message is asked again: what comes before it is gone on from
  const end = message.role === "visitor" ? message.parent : message.id;
  if (end === null) return { startsAfter: null, startsIn: null };
  const { conversation, copies } = await copyOfLine(home, app.id, end, { isOwned: true, opening: of.opening });
  return { startsAfter: copies.get(end) ?? null, startsIn: conversation };
}

/** Asks all lanes of a comparison a further message. @throws {Refusal} `conflict` where only one is left */
export function askLanes(home: ComparingNeeds, comparison: StoredComparison, message: string): StoredComparison {
  if (openLanes(home.comparisons, comparison.id).length < fewestLanes)
    refuse("conflict", "A comparison has at least two lanes.", { advice: "Add a candidate first." });
  home.comparisons.addTurn(comparison.id, message, Date.now());
  bringUp(home, comparison.id);
  home.changes.tell(comparison.id);
  return comparisonAt(home, comparison.id);
}

/** Adds a candidate, which is asked all that was asked so far. @param instead the lane whose place it takes */
export function addToComparison(
  home: ComparingNeeds,
  comparison: StoredComparison,
  wanted: WantedLane,
  instead?: StoredLane,
): StoredComparison {
  const { comparisons, apps, changes, laneRunner } = home;
  const app = apps.byId(comparison.app) ?? refuse("not-found", "The app was deleted.");
  const open = openLanes(comparisons, comparison.id);
  if (!instead && open.length >= mostLanes)
    refuse("conflict", `A comparison has up to ${mostLanes} lanes.`, { advice: "Leave one out first." });
  if (instead) leaveLane(home, instead.id);
  const place = instead?.place ?? Math.max(-1, ...comparisons.lanes(comparison.id).map((lane) => lane.place)) + 1;
  const lane = addLane(home, app, comparison.id, place, wanted);
  laneRunner.bringUp(lane.id);
  changes.tell(comparison.id);
  return comparison;
}

function addLane(
  home: ComparingNeeds,
  app: StoredApp,
  comparison: string,
  place: number,
  wanted: WantedLane,
): StoredLane {
  const { contents, comparisons } = home;
  const { base } = wanted;
  const content = sound(wanted.content);
  const now = Date.now();
  const contentHash = contents.keep(content, now);
  return comparisons.addLane({ comparison, place, base, revision: revisionOf(home, app, base, now), contentHash });
}

/** The number of the revision that a base is now; the draft becomes one, since a reply is about to use it. */
export function revisionOf({ apps }: HasApps, app: StoredApp, base: LaneBase, now: number): number {
  if (base === "live") return app.liveRevision;
  if (base === "draft") return apps.fix(app.id, app.draftHash, now);
  return apps.revision(app.id, base)?.number ?? refuse("not-found", `${app.name} has no revision ${base}.`);
}

/** The lane of an id, with its comparison. @throws {Refusal} `not-found` */
function laneAt({ comparisons }: HasComparisons, id: string): [StoredComparison, StoredLane] {
  const lane = comparisons.lane(id);
  const comparison = lane && comparisons.byId(lane.comparison);
  if (!comparison) refuse("not-found", `There is no lane ${id}.`);
  return [comparison, lane];
}

/** Puts another candidate in the place of a lane. @throws {Refusal} `not-found` */
export function changeLane(home: ComparingNeeds, id: string, wanted: WantedLane): StoredComparison {
  const [comparison, lane] = laneAt(home, id);
  return addToComparison(home, comparison, wanted, lane);
}

/** Leaves a lane out: nothing more is asked of it, and what arrives in it is stopped. @throws {Refusal} `not-found` */
export function leaveLane(home: ComparingNeeds, id: string): StoredComparison {
  const [comparison, lane] = laneAt(home, id);
  home.comparisons.leave(id, Date.now());
  void Promise.all(stopReplies(home, [lane]));
  home.changes.tell(comparison.id);
  return comparison;
}

/** Takes a lane in again that was left out; it is asked what it missed. @throws {Refusal} */
export function takeLaneBack(home: ComparingNeeds, id: string): StoredComparison {
  const [comparison, lane] = laneAt(home, id);
  if (openLanes(home.comparisons, lane.comparison).length >= mostLanes)
    refuse("conflict", `A comparison has up to ${mostLanes} lanes.`, { advice: "Leave one out first." });
  home.comparisons.leave(id, null);
  home.laneRunner.bringUp(id);
  home.changes.tell(comparison.id);
  return comparison;
}

/** Stops lanes: what arrives in them, and what they were still to be asked. @param only one of them; all without it */
export async function stopLanes(
  home: ComparingNeeds,
  comparison: StoredComparison,
  only?: string,
): Promise<StoredComparison> {
  const { comparisons, changes } = home;
  const last = comparisons.turns(comparison.id).length;
  const lanes = comparisons.lanes(comparison.id).filter(({ id }) => only === undefined || id === only);
  for (const lane of lanes) comparisons.stop(lane.id, last);
  await Promise.all(stopReplies(home, lanes));
  changes.tell(comparison.id);
  return comparison;
}

/** Stops one lane. @throws {Refusal} `not-found` */
export function stopLane(home: ComparingNeeds, id: string): Promise<StoredComparison> {
  const [comparison] = laneAt(home, id);
  return stopLanes(home, comparison, id);
}

/** Stops what arrives in lanes. */
function stopReplies({ hub, messages }: HasHub & HasMessages, lanes: readonly StoredLane[]): Promise<unknown>[] {
  return lanes
    .flatMap(({ conversation }) => (conversation === null ? [] : messages.underWayIn(conversation)))
    .map((reply) => hub.stop(reply));
}

/** A copy of a comparison, with all that was said in it; of what still arrives, without that turn. */
export async function copyComparison(
  home: ComparingNeeds,
  of: StoredComparison,
  name: string | null,
): Promise<StoredComparison> {
  const { comparisons, conversations, database } = home;
  const to = { isOwned: true, opening: "" };
  const start = of.startsAfter === null ? undefined : await copyOfLine(home, of.app, of.startsAfter, to);
  const lines = new Map<string, CopiedLine>();
  const lanes = openLanes(comparisons, of.id);
  for (const { id, conversation } of lanes) {
    const said = conversation === null ? undefined : conversations.byId(conversation);
    if (said?.tip) lines.set(id, await copyOfLine(home, of.app, said.tip, { ...to, opening: said.opening }));
  }
  return database
    .transaction(() => {
      const copy = comparisons.add({
        app: of.app,
        name,
        startsAfter: (of.startsAfter !== null && start?.copies.get(of.startsAfter)) || null,
        startsIn: start?.conversation ?? null,
        now: Date.now(),
      });
      comparisons.copyTurns(of.id, copy.id);
      for (const lane of lanes) copyLane(comparisons, lane, copy.id, lines.get(lane.id));
      return copy;
    })
    .immediate();
}

/** Copies a lane into another comparison, with what it made of its turns. @param line the copy of what was said in it */
function copyLane(
  comparisons: ComparisonStore,
  of: StoredLane,
  comparison: string,
  line: CopiedLine | undefined,
): void {
  const { place, base, revision, contentHash } = of;
  const conversation = line ? { conversation: line.conversation } : {};
  const lane = comparisons.addLane({ comparison, place, base, revision, contentHash, ...conversation });
  for (const { turn, message, problem } of comparisons.laneTurns(of.id)) {
    const copied = message === null ? undefined : line?.copies.get(message);
    if (copied !== undefined || problem) comparisons.setTurn(lane.id, { turn, message: copied ?? null, problem });
  }
  comparisons.stop(lane.id, comparisons.turns(comparison).length);
}

/** Deletes a comparison so that it can be restored; what arrives in it is stopped. */
export async function deleteComparison(home: ComparingNeeds, comparison: StoredComparison): Promise<void> {
  home.comparisons.hide(comparison.id, Date.now());
  await Promise.all(stopReplies(home, home.comparisons.lanes(comparison.id)));
}

/** Takes a deletion back; what was not asked yet is asked then. @throws {Refusal} `not-found` where it was for good */
export function restoreComparison(home: ComparingNeeds, id: string): StoredComparison {
  if (!home.comparisons.restore(id)) refuse("not-found", `Comparison ${id} is deleted for good.`);
  bringUp(home, id);
  return comparisonAt(home, id);
}

/** Deletes for good what was deleted before a moment, with all that was said in it, and lines that no lane got. */
export function leaveComparisons(
  { comparisons, conversations, removal }: HasComparisons & HasConversations & HasRemoval,
  before: number,
): void {
  comparisons.leaveLost(before);
  for (const id of comparisons.hiddenBefore(before)) {
    const now = Date.now();
    const start = comparisons.stored(id)?.startsIn;
    for (const { conversation } of comparisons.lanes(id))
      if (conversation !== null) conversations.leave(conversation, now);
    if (start) conversations.leave(start, now);
    comparisons.delete(id);
    void removal.start();
  }
}

/** Begins a conversation of the bench with what was said in a lane. @throws {Refusal} `conflict` where nothing was */
export async function goOnFromLane(home: ComparingNeeds, id: string): Promise<{ conversation: string }> {
  const [comparison, lane] = laneAt(home, id);
  const said = lane.conversation === null ? undefined : home.conversations.byId(lane.conversation);
  if (!said?.tip) refuse("conflict", "Nothing was said in this lane yet.", { advice: "Ask something first." });
  const { conversation } = await copyOfLine(home, comparison.app, said.tip, { isOwned: false, opening: said.opening });
  return { conversation };
}

function openLanes(comparisons: ComparisonStore, comparison: string): StoredLane[] {
  return comparisons.lanes(comparison).filter(({ isLeft }) => !isLeft);
}

function bringUp({ comparisons, laneRunner }: HasComparisons & HasLaneRunner, comparison: string): void {
  for (const { id } of openLanes(comparisons, comparison)) laneRunner.bringUp(id);
}
