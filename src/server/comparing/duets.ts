import type { DuetLimits, Side } from "@/core/comparing/duet/duet";
import { piecesOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import { sound } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import type { HasRemoval } from "../database/slices";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { HasProviders } from "../providers/provider-store";
import { revisionOf, type WantedLane } from "./comparing";
import { type HasDuetRunner, opened, utteranceOf } from "./duet-runner";
import type { HasDuets, StoredDuet } from "./duet-store";

/** What of the process is used here. */
export type DuetsNeeds = HasDuets &
  HasDuetRunner &
  HasApps &
  HasContents &
  HasProviders &
  HasConversations &
  HasMessages &
  HasDatabase &
  HasHub &
  HasChanges;

/** A duet that is wanted. */
export interface WantedDuet extends DuetLimits {
  name?: string;
  sides: readonly WantedLane[];
  opening: string;
  cue: string;
  opener: Side;
}

/** The duet of an id. @throws {Refusal} `not-found` */
export function duetAt({ duets }: HasDuets, id: string): StoredDuet {
  return duets.byId(id) ?? refuse("not-found", `There is no duet ${id}.`);
}

/** Makes a duet, and has the two begin. @throws {Refusal} where one of them can't be asked at all */
export function beginDuet(home: DuetsNeeds, app: StoredApp, { sides, name, ...wanted }: WantedDuet): StoredDuet {
  const now = Date.now();
  const duet = home.database
    .transaction(() => {
      const stored = sides.map(({ base, content }) => {
        chosenFor(home, content);
        const contentHash = home.contents.keep(sound(content), now);
        return { base, revision: revisionOf(home, app, base, now), contentHash };
      });
      const made = home.duets.add({ ...wanted, app: app.id, name: name ?? null, now }, stored);
      if (wanted.opening !== "") sayOpening(home, made, now);
      return made;
    })
    .immediate();
  home.duetRunner.start(duet.id);
  return duet;
}

/** Puts the opening line into the mouth of the opener: as its answer to the cue. */
function sayOpening(home: DuetsNeeds, duet: StoredDuet, now: number): void {
  const { messages, duets, contents } = home;
  const { opener: side } = duet;
  const conversation = opened(home, duet, side);
  const { contentHash, revision } = duets.sides(duet.id)[side];
  const { provider, model } = contents.read(contentHash);
  const facts = { provider, model, revision, hand: "written" as const };
  const to = { conversation, now };
  const cue = messages.addVisitorMessage({ ...to, parent: undefined, pieces: piecesOf(duet.cue) });
  const { id } = messages.addReply({ ...to, parent: cue, continues: null, facts });
  messages.finishReply({ id, state: "complete", pieces: piecesOf(duet.opening), reported: null, facts });
  duets.addTurn(duet.id, { number: 1, side, message: cue.id });
}

/** Stops a duet: what is being said ends where it is. */
export async function stopDuet(home: DuetsNeeds, duet: StoredDuet): Promise<StoredDuet> {
  if (!duet.ended) home.duets.setEnded(duet.id, { kind: "stopped" }, Date.now());
  await Promise.all(stopReplies(home, duet));
  home.changes.tell(duet.id);
  return duetAt(home, duet.id);
}

function stopReplies({ duets, hub, messages }: HasDuets & HasHub & HasMessages, { id }: StoredDuet) {
  return duets
    .sides(id)
    .flatMap(({ conversation }) => (conversation === null ? [] : messages.underWayIn(conversation)))
    .map((reply) => hub.stop(reply));
}

/**
 * Has a duet go on that has ended, for further rounds; an utterance in which nothing was said is made once more.
 * @throws {Refusal} `conflict` while it goes on
 */
export function resumeDuet(home: DuetsNeeds, duet: StoredDuet, limits: DuetLimits): StoredDuet {
  const { duets, database, messages } = home;
  if (!duet.ended) refuse("conflict", "This duet goes on already.");
  database
    .transaction(() => {
      const turns = duets.turns(duet.id);
      const last = turns.at(-1);
      const reply = last && utteranceOf({ messages }, last);
      const isSaid = reply && !isUnderWay(reply.state) && !reply.facts.problem && reply.pieces.length > 0;
      if (last && !isSaid) duets.setAgain(duet.id, last.number, true);
      duets.goOn(duet.id, limits, turns.length, Date.now());
    })
    .immediate();
  home.duetRunner.start(duet.id);
  home.changes.tell(duet.id);
  return duetAt(home, duet.id);
}

/** Puts a word in: one side or both are told it with what the other says next. */
export function putIn(home: HasDuets & HasChanges, duet: StoredDuet, sides: readonly Side[], text: string): StoredDuet {
  for (const side of sides) home.duets.addWord(duet.id, side, text);
  home.changes.tell(duet.id);
  return duetAt(home, duet.id);
}

/** Deletes a duet so that it can be restored; what is being said is stopped. */
export async function deleteDuet(home: DuetsNeeds, duet: StoredDuet): Promise<void> {
  await stopDuet(home, duet);
  home.duets.hide(duet.id, Date.now());
}

/** Takes a deletion back. @throws {Refusal} `not-found` where it was for good */
export function restoreDuet(home: HasDuets, id: string): StoredDuet {
  if (!home.duets.restore(id)) refuse("not-found", `Duet ${id} is deleted for good.`);
  return duetAt(home, id);
}

/** Deletes for good what was deleted before a moment, with all that was said in it. */
export function leaveDuets(
  { duets, conversations, removal }: HasDuets & HasConversations & HasRemoval,
  before: number,
): void {
  for (const id of duets.hiddenBefore(before)) {
    for (const { conversation } of duets.sides(id))
      if (conversation !== null) conversations.leave(conversation, Date.now());
    duets.delete(id);
    void removal.start();
  }
}
