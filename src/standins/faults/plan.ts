/** What each fault needs to be told, and what it may be. `after` counts events of the stream. */
const faults = {
  "slow-start": ["ms"],
  "slow-drip": ["ms"],
  stalled: ["after"],
  dropped: ["after"],
  "broken-json": ["after"],
  "cut-in-character": [],
  "cut-at-every-byte": [],
  "held-back": [],
  status: ["status"],
  redirect: [],
  page: [],
  empty: [],
  "no-end": [],
  twice: ["after"],
  "never-ends": [],
  "no-usage": [],
  "wrong-usage": [],
} as const;

export type FaultName = keyof typeof faults;

/** What a stand-in does wrong on purpose. */
export interface Fault {
  fault: FaultName;
  ms?: number;
  after?: number;
  status?: number;
  /** Seconds that a status asks to wait. */
  retryAfter?: number;
  /** Where a redirect leads. */
  to?: string;
}

/** A fault and for how many calls it counts; without `calls` until it is taken back. */
export type FaultPlan = Fault & { calls?: number };

const known = new Set(["fault", "ms", "after", "status", "retryAfter", "to", "calls"]);

/** Reads a plan from a request's body; a string says what is wrong with it. */
export function planFrom(body: unknown): FaultPlan | string {
  if (typeof body !== "object" || body === null) return "a plan is an object";
  const plan = body as Record<string, unknown>;
  if (typeof plan.fault !== "string" || !Object.hasOwn(faults, plan.fault))
    return `fault is one of ${Object.keys(faults).join(", ")}`;
  for (const need of faults[plan.fault as FaultName])
    if (typeof plan[need] !== "number" || plan[need] < 0) return `${plan.fault} needs a number in "${need}"`;
  if (plan.calls !== undefined && (typeof plan.calls !== "number" || plan.calls < 1)) return "calls is a number from 1";
  const other = Object.keys(plan).find((name) => !known.has(name));
  return other === undefined ? (plan as unknown as FaultPlan) : `"${other}" does not belong into a plan`;
}

/** The faults of one stand-in. */
export class Faults {
  /** The plan that counts now. */
  plan: FaultPlan | undefined;

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
