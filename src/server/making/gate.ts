/** Who goes first where a provider has no place left: visitors, then the bench, then jobs. */
export const ranks = ["visitor", "bench", "job"] as const;
export type Rank = (typeof ranks)[number];

/** One that waits for a place. */
interface Waiting {
  rank: Rank;
  most: number | null;
  go(): void;
}

/** How many calls of a provider are under way, and who waits, in the order in which they came. */
interface Door {
  inside: number;
  line: Waiting[];
}

/**
 * Lets so many calls of a provider go out at once. Who waits enters by rank, and within a rank in the order in which
 * they came. Jobs leave a place free where there are several, so that nobody else waits for them.
 */
export class Gate {
  private readonly doors = new Map<string, Door>();

  /**
   * Enters, at once or when another leaves.
   * @param most calls at once; null for any number
   * @param onWait called where it has to be waited
   * @returns how to leave; undefined where `signal` ended the wait
   */
  async enter(
    name: string,
    most: number | null,
    rank: Rank,
    onWait: () => void,
    signal: AbortSignal,
  ): Promise<(() => void) | undefined> {
    if (signal.aborted) return undefined;
    const door = this.doors.get(name) ?? { inside: 0, line: [] };
    this.doors.set(name, door);
    if (hasPlace(door, most, rank)) door.inside += 1;
    else {
      onWait();
      if (!(await turn(door, most, rank, signal))) return undefined;
    }
    let isInside = true;
    return () => {
      if (isInside) this.leave(name, door);
      isInside = false;
    };
  }

  private leave(name: string, door: Door): void {
    door.inside -= 1;
    for (let next = nextOf(door); next; next = nextOf(door)) {
      door.line.splice(door.line.indexOf(next), 1);
      door.inside += 1;
      next.go();
    }
    if (door.inside === 0 && door.line.length === 0) this.doors.delete(name);
  }
}

/** Whether one of a rank may enter now. */
function hasPlace({ inside }: Door, most: number | null, rank: Rank): boolean {
  if (most === null) return true;
  return inside < (rank === "job" ? Math.max(most - 1, 1) : most);
}

/** Who enters next, if anybody may. */
function nextOf(door: Door): Waiting | undefined {
  for (const rank of ranks) {
    const first = door.line.find((each) => each.rank === rank);
    if (first) return hasPlace(door, first.most, rank) ? first : undefined;
  }
  return undefined;
}

/** Waits for a place; false where it was not waited for to the end. */
function turn(door: Door, most: number | null, rank: Rank, signal: AbortSignal): Promise<boolean> {
  return new Promise((resolve) => {
    const waiting: Waiting = {
      rank,
      most,
      go() {
        signal.removeEventListener("abort", giveUp);
        resolve(true);
      },
    };
    const giveUp = () => {
      door.line.splice(door.line.indexOf(waiting), 1);
      resolve(false);
    };
    signal.addEventListener("abort", giveUp, { once: true });
    door.line.push(waiting);
  });
}
