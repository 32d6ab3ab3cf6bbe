import { usualSaying } from "@/core/guards/guard";
import type { LastEvent, SaidEvent } from "@/core/reply/events";
import type { Attempted, AttemptedTake, OrderGuards, Sink } from "./types";

/** How a reply ends that a guard refuses. */
export const refused: LastEvent = { event: "end", data: { reason: "refused" } };

/** A take, and whether a judge held back what it says. */
interface JudgedTake extends AttemptedTake {
  isHeld?: true;
}

/** What is left of a take that is not shown. */
const heldBack = { isHeld: true as const, text: "", thought: "", pictures: [], calls: [] };

/** Whether all that a model says waits for a judge. */
export function waitsForJudges(guards: OrderGuards | undefined): boolean {
  return guards?.judges.some(({ guard }) => guard.does === "refuse") ?? false;
}

/** Judges between attempts and the sink: what may be refused is told to nobody before they have said something. */
export class Judging {
  /** What attempts say to. */
  readonly sink: Sink;
  private waiting: { take: number; event: SaidEvent }[] = [];

  /** @param halted what it ends with, once it was stopped */
  constructor(
    private readonly guards: OrderGuards | undefined,
    private readonly to: Sink,
    private readonly stopped: AbortSignal,
    private readonly halted: () => LastEvent | undefined,
  ) {
    const wait = (take: number, event: SaidEvent) => this.waiting.push({ take, event });
    this.sink = waitsForJudges(guards) ? saidElsewhere(to, wait) : to;
  }

  /** Begins anew: what an attempt said that failed is told to nobody. */
  begin(): void {
    this.waiting = [];
  }

  /** An attempt as it is shown: judges let it through, or their guards' words are said in its place. */
  async judged(attempted: Attempted): Promise<Attempted> {
    if ((this.guards?.judges.length ?? 0) === 0) return attempted;
    const takes = await Promise.all(attempted.takes.map((take) => this.judgedTake(take))).catch((error) => {
      attempted.settle?.(false);
      throw error;
    });
    const isShown = takes.every(({ isHeld }) => !isHeld);
    attempted.settle?.(isShown);
    if (!waitsForJudges(this.guards)) return { ...attempted, takes: takes as [JudgedTake, ...JudgedTake[]] };
    for (const { take, event } of this.waiting) if (!takes[take]?.isHeld) this.to.say(take, event);
    this.waiting = [];
    for (const [take, { isHeld, text }] of takes.entries())
      if (isHeld && text !== "") this.to.say(take, { event: "text", data: { text } });
    return {
      ...attempted,
      takes: takes as [JudgedTake, ...JudgedTake[]],
      carry: isShown ? attempted.carry : undefined,
      firstTextAt: takes[0]?.text ? performance.now() : undefined,
    };
  }

  /** A take that each judge lets through; or what is said in its place. Of one that was stopped meanwhile nothing is said. */
  private async judgedTake(take: AttemptedTake): Promise<JudgedTake> {
    const { judges = [], judge } = this.guards ?? {};
    const said = take.text.trim() === "" ? take.thought : take.text;
    const isRefused = take.last.event === "end" && take.last.data.reason === "refused";
    if (isRefused || !judge || (said.trim() === "" && !this.halted())) return take;
    const caught = [...take.caught];
    for (const { guard } of judges) {
      const verdict = this.halted() ? null : await judge(guard, said, this.stopped);
      const last = this.halted();
      if (last && guard.does === "refuse") return { ...take, ...heldBack, last };
      if (verdict === "meets" || (verdict === null && guard.does === "mark")) continue;
      caught.push({ guard: guard.name, on: "shown", does: guard.does, what: "judge", times: 1 });
      if (guard.does === "refuse")
        return { ...take, ...heldBack, text: guard.says ?? usualSaying, caught, last: refused };
    }
    return { ...take, caught };
  }
}

/** A sink to which nothing is said but through something else. */
function saidElsewhere(sink: Sink, say: Sink["say"]): Sink {
  return {
    begin: (dispatch) => sink.begin(dispatch),
    bytes: (dispatch, bytes, at) => sink.bytes(dispatch, bytes, at),
    leaveOutBytes: (dispatch) => sink.leaveOutBytes(dispatch),
    say,
    settled: () => sink.settled(),
    next: (attempt) => sink.next(attempt),
    end: (dispatch) => sink.end(dispatch),
  };
}
