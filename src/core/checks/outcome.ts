/** How an expectation came out: `silent` where there was no answer to judge, or it could not be found out. */
export const outcomes = ["held", "broke", "silent"] as const;
export type Outcome = (typeof outcomes)[number];

/** How an expectation came out, with what was seen. */
export interface Judged {
  line: number;
  outcome: Outcome;
  /** What the kind of the expectation saw, as JSON. */
  saw: unknown;
  /** Whether it says nothing about how the trial came out: a judge's opinion. */
  isOpinion?: true;
}
