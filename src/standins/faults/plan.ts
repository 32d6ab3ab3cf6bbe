import type { Active, Numbers, Planned } from "./fault";
import { faults } from "./faults";

/** What a stand-in does wrong, and for how many calls; without `calls` until it is taken back. */
export interface FaultPlan extends Planned {
  fault: string;
  calls?: number;
}

const known = new Set(["fault", "ms", "after", "status", "retryAfter", "to", "calls"]);
/** Numbers that a plan may leave out, though its fault knows them. */
const optional = new Set<keyof Numbers>(["retryAfter"]);

/** Reads a plan from a request's body; a string says what is wrong with it. */
export function planFrom(body: unknown): FaultPlan | string {
  if (typeof body !== "object" || body === null) return "a plan is an object";
  const plan = body as Record<string, unknown>;
  const fault = typeof plan.fault === "string" && Object.hasOwn(faults, plan.fault) ? faults[plan.fault] : undefined;
  if (!fault) return `fault is one of ${Object.keys(faults).join(", ")}`;
  for (const need of Object.keys(fault.needs) as (keyof Numbers)[])
    if (!optional.has(need) && (typeof plan[need] !== "number" || plan[need] < 0))
      return `${plan.fault} needs a number in "${need}"`;
  if (plan.calls !== undefined && (typeof plan.calls !== "number" || plan.calls < 1)) return "calls is a number from 1";
  const other = Object.keys(plan).find((name) => !known.has(name));
  return other === undefined ? (plan as unknown as FaultPlan) : `"${other}" does not belong into a plan`;
}

/** The plan of one stand-in. */
export class Plan {
  /** What counts now. */
  now: FaultPlan | undefined;

  /** Sets a plan, or takes it back. */
  set(plan: FaultPlan | undefined): void {
    this.now = plan;
  }

  /** The fault for the call that begins now. */
  next(): Active | undefined {
    const plan = this.now;
    const fault = plan && faults[plan.fault];
    if (!fault) return undefined;
    if (plan.calls !== undefined) this.now = plan.calls > 1 ? { ...plan, calls: plan.calls - 1 } : undefined;
    return { ...fault, planned: plan };
  }
}
