import type { SetMark } from "@/core/comparing/sets/answer";
import type { Row } from "@/core/comparing/sets/rows";
import { sound } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasProviders } from "../providers/provider-store";
import { revisionOf, type WantedLane } from "./comparing";
import type { HasSets, StoredSet } from "./set-store";

/** A set that is wanted. */
export interface WantedSet {
  name?: string;
  lanes: readonly WantedLane[];
  rows: readonly Row[];
}

/** The set of an id. @throws {Refusal} `not-found` */
export function setAt({ sets }: HasSets, id: string): StoredSet {
  return sets.byId(id) ?? refuse("not-found", `There is no set ${id}.`);
}

/** Takes a deletion back. @throws {Refusal} `not-found` where it was for good */
export function restoreSet(home: HasSets, id: string): StoredSet {
  if (!home.sets.restore(id)) refuse("not-found", `Set ${id} is deleted for good.`);
  return setAt(home, id);
}

/** Adds a set, of which nothing is asked yet. @throws {Refusal} where a lane can't be asked at all */
export function addSet(
  home: HasSets & HasApps & HasContents & HasProviders,
  app: StoredApp,
  { name, lanes, rows }: WantedSet,
  now: number,
): StoredSet {
  const stored = lanes.map(({ base, content }) => {
    chosenFor(home, content);
    return {
      base,
      revision: revisionOf(home, app, base, now),
      contentHash: home.contents.keep(sound(content), now),
    };
  });
  return home.sets.add({ app: app.id, name: name ?? null, now }, stored, rows);
}

/** Marks an answer as good or bad; null takes the mark away. With the last one the names of the lanes are shown. */
export function markAnswer(
  { sets, changes }: HasSets & HasChanges,
  set: StoredSet,
  { row, lane, mark }: { row: number; lane: number; mark: SetMark | null },
): StoredSet {
  if (!sets.mark(set.id, { row, lane }, mark))
    refuse("not-found", `Lane ${lane + 1} has no answer to message ${row + 1}.`);
  if (set.hidesNames && sets.unmarked(set.id) === 0) sets.setHidden(set.id, false, 0);
  changes.tell(set.id);
  return setAt({ sets }, set.id);
}

/** Hides the names of the lanes until all is marked, or shows them before that. */
export function hideNames({ sets, changes }: HasSets & HasChanges, set: StoredSet, isHidden: boolean): StoredSet {
  const unmarked = sets.unmarked(set.id);
  if (isHidden && unmarked === 0)
    refuse("conflict", "Every answer of this set is marked.", { advice: "Take a mark away first, to give it anew." });
  sets.setHidden(set.id, isHidden, isHidden ? 0 : unmarked);
  changes.tell(set.id);
  return setAt({ sets }, set.id);
}
