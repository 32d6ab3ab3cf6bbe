import { CallFailed } from "@/contract/client";
import type { Paper } from "./paper";

/** Does something that calls the bench, and tells where that failed. @returns the exit code */
export async function told(at: string, paper: Paper, work: () => Promise<void>): Promise<number> {
  try {
    await work();
    return 0;
  } catch (error) {
    if (!(error instanceof CallFailed)) throw error;
    const { kind, detail, advice } = error.problem;
    paper.warn(
      kind === "away"
        ? `Nothing answers at ${at}. Start Unruly Finch, or say where it is with --at.`
        : `${detail} ${advice}`,
    );
    return kind === "away" || kind === "internal" ? 1 : 2;
  }
}
