import { isUnderWay } from "@/core/reply/reply";
import type { Revision } from "@/core/revision/revision";
import type { HasDatabase } from "../database/database";
import { isRefusal } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import { type AskedBy, type AskNeeds, ask } from "../replies/ask";
import type { HasComparisons, StoredComparison, StoredLane, StoredTurn } from "./comparison-store";
import { type CopiedLine, type CopyNeeds, copyOfLine, newLine } from "./lane-line";

/** What of the process is used here. */
export type LaneNeeds = AskNeeds & CopyNeeds & HasComparisons & HasChanges & HasDatabase;

/** How often a reply may be begun that a stop of the process cuts off. */
const mostTries = 2;

/** What a lane is to do next: say what it was not asked yet, have a reply made once more, or wait for one. */
type Step =
  | { kind: "say"; turn: StoredTurn }
  | { kind: "again"; turn: StoredTurn; message: string }
  | { kind: "wait"; reply: string };

/**
 * Asks lanes what was asked of their comparison, one turn after another, each lane for itself. What was asked and how it
 * ended is read from what is stored, so that a lane goes on where it was after a stop of the process: what ended is
 * never asked again, and what was cut off once more.
 */
export class LaneRunner {
  private readonly running = new Set<string>();

  constructor(private readonly home: () => LaneNeeds) {}

  /** Has a lane asked what is left. What can be asked now has been when this returns. */
  bringUp(lane: string): void {
    if (this.running.has(lane)) return;
    this.running.add(lane);
    void this.run(lane);
  }

  /** Goes on with what a stop of the process left. */
  resume(): void {
    for (const lane of this.home().comparisons.unfinished()) this.bringUp(lane);
  }

  private async run(id: string): Promise<void> {
    const home = this.home();
    try {
      for (let step = nextStep(home, id); step && !home.isClosing(); step = nextStep(home, id)) {
        const reply = step.kind === "wait" ? step.reply : await begin(home, id, step);
        if (reply !== undefined) await home.hub.ended(reply);
      }
    } catch (error) {
      home.log.error({ error, lane: id }, "a lane of a comparison could not go on");
    } finally {
      this.running.delete(id);
    }
  }
}

/** What is left of a lane; nothing once it was asked all, was left out, or its comparison is gone. */
function nextStep({ comparisons, messages }: LaneNeeds, id: string): Step | undefined {
  const lane = openLaneOf({ comparisons }, id);
  if (!lane) return undefined;
  const made = new Map(comparisons.laneTurns(id).map((each) => [each.turn, each]));
  for (const turn of comparisons.turns(lane.comparison)) {
    const known = made.get(turn.turn);
    if (known?.message) {
      const takes = messages.takesOf(known.message);
      const underWay = takes.find(({ state }) => isUnderWay(state));
      if (underWay) return { kind: "wait", reply: underWay.id };
      const isCutOff = takes.every(({ state }) => state === "interrupted") && takes.length < mostTries;
      if (isCutOff && turn.turn > lane.stoppedAtTurn) return { kind: "again", turn, message: known.message };
    } else if (!known && turn.turn > lane.stoppedAtTurn) return { kind: "say", turn };
  }
  return undefined;
}

/** A lane that is still asked; nothing once it was left out, or its comparison is gone. */
function openLaneOf({ comparisons }: HasComparisons, id: string): StoredLane | undefined {
  const lane = comparisons.lane(id);
  return lane && !lane.isLeft && comparisons.byId(lane.comparison) ? lane : undefined;
}

/** Begins a reply of a lane, and gives its id; where that can't be done, the lane has the reason in its place. */
async function begin(home: LaneNeeds, id: string, step: Exclude<Step, { kind: "wait" }>): Promise<string | undefined> {
  const { comparisons, apps, changes } = home;
  const lane = comparisons.lane(id) as StoredLane;
  const comparison = comparisons.byId(lane.comparison) as StoredComparison;
  const { turn } = step.turn;
  try {
    const app = apps.byId(comparison.app);
    if (!app) return undefined;
    const by: AskedBy = { asker: { kind: "bench" }, origin: "lane", client: null, candidate: candidateOf(home, lane) };
    const { startsAfter } = comparison;
    const to = { isOwned: true, opening: step.turn.message };
    // nothing is waited for where there is no line to copy: what was asked is on its way before this returns
    const conversation =
      lane.conversation ??
      opened(
        home,
        lane,
        startsAfter === null ? newLine(home, app.id, to) : await copyOfLine(home, app.id, startsAfter, to),
      );
    // while its line was copied it may have been left out, or its comparison deleted
    if (!openLaneOf(home, id)) return undefined;
    const call = step.kind === "again" ? { again: step.message } : { message: step.turn.message, conversation };
    const { reply } = ask(home, app, by, call, ({ head }) =>
      comparisons.setTurn(id, { turn, message: head.message, problem: null }),
    );
    return reply;
  } catch (error) {
    if (!isRefusal(error)) throw error;
    comparisons.setTurn(id, { turn, message: null, problem: error.problem });
    return undefined;
  } finally {
    changes.tell(comparison.id);
  }
}

function candidateOf({ contents }: LaneNeeds, { contentHash: hash, revision: number }: StoredLane): Revision {
  return { number, hash, content: contents.read(hash) };
}

/** Gives a lane the conversation that it is asked in. */
function opened(home: LaneNeeds, { id }: StoredLane, { conversation }: CopiedLine): string {
  home.comparisons.setConversation(id, conversation);
  return conversation;
}

/** A parameter that has `laneRunner`. */
export interface HasLaneRunner {
  laneRunner: LaneRunner;
}
