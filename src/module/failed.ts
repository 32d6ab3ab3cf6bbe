import type { Failure } from "./types";

/** A call that failed. */
export class Failed extends Error {
  constructor(readonly failure: Failure) {
    super(failure.detail);
  }
}

/** Why something failed, as one is told. */
export function failureOf(error: unknown): Failure {
  if (error instanceof Failed) return error.failure;
  return { kind: "internal", detail: String(error), advice: "Try again." };
}

/** The kind of failure; empty where it is none of the app's. */
export function kindOf(error: unknown): string {
  return error instanceof Failed ? error.failure.kind : "";
}
