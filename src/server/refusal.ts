import type { ProblemExtras } from "@/contract/problem";
import { type Problem, type ProblemKind, problem } from "@/core/reply/problem";

/** Thrown on the way of a call that can't be answered; becomes a problem document at the border. */
export class Refusal extends Error {
  constructor(
    readonly problem: Problem,
    readonly extras: ProblemExtras = {},
  ) {
    super(problem.detail);
  }
}

/** Refuses a call. */
export function refuse(kind: ProblemKind, detail: string, more: { advice?: string } & ProblemExtras = {}): never {
  const { advice, ...extras } = more;
  throw new Refusal(problem(kind, detail, advice === undefined ? {} : { advice }), extras);
}
