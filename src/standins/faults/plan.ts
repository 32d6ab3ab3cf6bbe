/**
 * What a stand-in does wrong on purpose. A plan counts for the next `calls` calls, or until it is
 * taken back; `after` counts events of the stream.
 */
export type Fault =
  | { fault: "slow-start"; ms: number }
  | { fault: "stalled"; after: number }
  | { fault: "dropped"; after: number }
  | { fault: "broken-json"; after: number }
  | { fault: "held-back" }
  | { fault: "no-end" }
  | { fault: "empty" }
  | { fault: "status"; status: number; retryAfter?: number };

/** A fault and for how many calls it counts; without `calls` until it is taken back. */
export type FaultPlan = Fault & { calls?: number };

const needs: Record<Fault["fault"], string | undefined> = {
  "slow-start": "ms",
  stalled: "after",
  dropped: "after",
  "broken-json": "after",
  "held-back": undefined,
  "no-end": undefined,
  empty: undefined,
  status: "status",
};

/** Reads a plan from a request's body; a string says what is wrong with it. */
export function planFrom(body: unknown): FaultPlan | string {
  if (typeof body !== "object" || body === null) return "a plan is an object";
  const plan = body as Record<string, unknown>;
  if (typeof plan.fault !== "string" || !(plan.fault in needs))
    return `fault is one of ${Object.keys(needs).join(", ")}`;
  const need = needs[plan.fault as Fault["fault"]];
  if (need !== undefined && typeof plan[need] !== "number") return `${plan.fault} needs a number in "${need}"`;
  if (plan.calls !== undefined && (typeof plan.calls !== "number" || plan.calls < 1)) return "calls is a number from 1";
  return plan as FaultPlan;
}

/** The faults of one stand-in. */
export class Faults {
  private plan: FaultPlan | undefined;

  /** Sets a plan, or takes it back. */
  set(plan: FaultPlan | undefined): void {
    this.plan = plan;
  }

  /** The fault for the call that begins now. */
  next(): Fault | undefined {
    const plan = this.plan;
    if (plan?.calls === undefined) return plan;
    this.plan = plan.calls > 1 ? { ...plan, calls: plan.calls - 1 } : undefined;
    return plan;
  }
}
