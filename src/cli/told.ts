import type { Cell, Run, RunCheck } from "@/contract/checks";
import { passes } from "@/core/checks/chance";
import { tellJudged, writeExpectation } from "@/core/checks/expectations/expectations";
import { parseScript } from "@/core/checks/parse";
import { expectedIn } from "@/core/checks/script";

/** How one check came out on one candidate. */
export interface ToldCell {
  check: RunCheck;
  column: string;
  held: number;
  broke: number;
  silent: number;
  /** Milliseconds that its trials took, one after another. */
  ms: number;
  outcome: "held" | "broke" | "silent";
  /** What broke, or could not be judged, in words: one each line of the check. */
  misses: { line: number; expected: string; saw: string; trial: number }[];
}

/** How each check came out on each candidate. */
export function toldOf(run: Run): ToldCell[] {
  return run.checks.flatMap((check) => {
    const read = parseScript(check.text).script.checks[0];
    if (!read) return [];
    const expected = new Map(expectedIn(read).map((each) => [each.line, each.expectation]));
    // lines are told as they stand in the script
    const place = new Map(read.lines.map(({ line }, at) => [line, check.lines[at] ?? line]));
    return check.cells.map((cell): ToldCell => {
      const count = (outcome: Cell["trials"][0]["outcome"]) =>
        cell.trials.filter((each) => each.outcome === outcome).length;
      const [held, broke, silent] = [count("held"), count("broke"), count("silent")];
      const isPassed = passes({ held, of: held + broke }, read.least);
      return {
        check,
        column: run.columns[cell.column]?.name ?? "",
        held,
        broke,
        silent,
        ms: cell.trials.reduce((sum, { ms }) => sum + ms, 0),
        outcome: isPassed === undefined ? "silent" : isPassed ? "held" : "broke",
        misses: cell.misses.flatMap(({ judged, number, problem }) => {
          const expectation = expected.get(judged.line);
          if (!expectation) return [];
          const saw = judged.outcome === "silent" && problem ? problem.detail : `it ${tellJudged(expectation, judged)}`;
          return [
            {
              line: place.get(judged.line) ?? judged.line,
              expected: writeExpectation(expectation),
              saw,
              trial: number,
            },
          ];
        }),
      };
    });
  });
}
