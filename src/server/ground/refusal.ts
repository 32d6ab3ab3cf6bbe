import type { ProblemExtras } from "@/contract/problem";
import { type Problem, type ProblemKind, problem } from "@/core/problem/problem";

const brand = Symbol.for("unruly-finch.refusal");

/** Thrown on the way of a call that can't be answered; becomes a problem document at the border. */
export class Refusal extends Error {
  readonly [brand] = true;

  constructor(
    readonly problem: Problem,
    readonly extras: ProblemExtras = {},
    /** Whether it is the reply that failed, and not the call for it. */
    readonly isOfReply = false,
  ) {
    super(problem.detail);
  }
}

/** Whether a call was refused on purpose. Next loads this module several times, so the class alone does not tell. */
export function isRefusal(error: unknown): error is Refusal {
  return error instanceof Error && brand in error;
}

/** Refuses a call. */
export function refuse(kind: ProblemKind, detail: string, more: { advice?: string } & ProblemExtras = {}): never {
  const { advice, ...extras } = more;
  throw new Refusal(problem(kind, detail, advice === undefined ? {} : { advice }), extras);
}
