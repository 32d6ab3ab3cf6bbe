import { problem } from "@/core/problem/problem";
import { nearestOf, wordsOfDifference } from "@/core/recordings/nearest";
import type { RecordedAnswer, RecordedCall, Recording, Slot } from "@/core/recordings/recording";
import type { Traffic } from "../exchange/traffic";
import { hashOf, type RecordingStore } from "./recording-store";

/** Where the answers of a run come from: providers, what is recorded and else providers, or what is recorded alone. */
export type AnswersFrom = "called" | "recorded-first" | "recorded";

export interface RunTrafficOf {
  app: string;
  answers: AnswersFrom;
  pace: Traffic["pace"];
  /** Whether what is called is recorded. */
  records: boolean;
}

/** Differences to the nearest recording that are told. */
const told = 3;

/** What stands between the trials of a run and its providers. */
export class RunTraffic {
  private readonly byKey = new Map<string, Recording[]>();
  private readonly used = new Set<Recording>();
  private readonly all: readonly Recording[];

  constructor(
    private readonly store: RecordingStore,
    private readonly of: RunTrafficOf,
  ) {
    this.all = of.answers === "called" ? [] : store.all(of.app);
    for (const recording of this.all) {
      const key = hashOf(recording.call);
      this.byKey.set(key, [...(this.byKey.get(key) ?? []), recording]);
    }
  }

  /** What stands between one trial and its providers. What was recorded of it before is let go of, where it is anew. */
  forTrial(slot: Slot): Traffic {
    const { app, answers, pace, records } = this.of;
    if (records && answers === "called") this.store.clear(app, slot);
    const asked = new Map<string, number>();
    const kept = new Map<string, number>();
    return {
      isAlone: answers === "recorded",
      pace,
      find: (call) => {
        if (answers === "called") return { kind: "called" };
        const n = counted(asked, hashOf(call));
        const recording = this.find(call, slot, n);
        if (recording) return { kind: "played", answer: recording.answer };
        if (answers === "recorded-first") return { kind: "called" };
        return { kind: "none", problem: this.missing(call, slot) };
      },
      ...(records && {
        keep: (call: RecordedCall, answer: RecordedAnswer) => {
          const n = counted(kept, hashOf(call));
          this.store.add(app, { at: new Date().toISOString(), of: slot, n, call, answer });
        },
      }),
    };
  }

  /**
   * The recording of a call: that of its very place, or else one of the same call that none was played for yet, of the
   * same check and trial before others.
   */
  private find(call: RecordedCall, slot: Slot, n: number): Recording | undefined {
    const same = this.byKey.get(hashOf(call)) ?? [];
    const isHere = ({ of }: Recording) => of.check === slot.check && of.trial === slot.trial;
    const found =
      same.find((each) => isHere(each) && each.of.column === slot.column && each.n === n) ??
      same.find((each) => isHere(each) && !this.used.has(each)) ??
      same.find((each) => !this.used.has(each));
    if (found) this.used.add(found);
    return found;
  }

  private missing(call: RecordedCall, slot: Slot) {
    const asks = `${call.model} on ${call.provider} is asked what is not recorded`;
    const same = this.byKey.get(hashOf(call));
    if (same)
      return problem(
        "no-recording",
        `${asks} as often: ${same.length === 1 ? "its one recording was" : `its ${same.length} recordings were`} played.`,
      );
    const nearest = nearestOf(this.all, call, slot);
    if (!nearest) return problem("no-recording", `${asks}: nothing is recorded.`);
    const { recording, differences } = nearest;
    const words = differences.slice(0, told).map(wordsOfDifference);
    const more = differences.length > told ? `; and ${differences.length - told} more` : "";
    const { check, trial } = recording.of;
    return problem(
      "no-recording",
      `${asks}. The nearest is of “${check}”, trial ${trial}: ${words.join("; ")}${more}.`,
    );
  }
}

function counted(counts: Map<string, number>, key: string): number {
  const n = (counts.get(key) ?? 0) + 1;
  counts.set(key, n);
  return n;
}
