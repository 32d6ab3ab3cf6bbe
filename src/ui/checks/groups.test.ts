import { describe, expect, it } from "vitest";
import type { Cell, Run } from "@/contract/checks";
import { standingTo } from "@/core/checks/chance";
import { groupTitle, outcomesAt, shownChecks, tallyOf, unrunChecks } from "./groups";

const text = (name: string) => `check  ${name}\nvisitor  Hello\n    says "a"\n    says "b"\n`;

const cell = (column: number, outcomes: string): Cell => ({
  column,
  misses: [],
  standing: null,
  trials: [...outcomes].map((letter, at) => ({
    id: `tri_${at}`,
    trial: at + 1,
    ms: 1,
    isTaken: false,
    outcomes: `${letter}h`,
    outcome: letter === "h" ? "held" : letter === "b" ? "broke" : "silent",
  })),
});

/** A run of checks with these outcomes on two columns. */
function runOf(checks: Record<string, [live: string, draft: string]>): Run {
  return {
    against: 0,
    done: 10,
    price: 1,
    columns: [{ name: "live" }, { name: "draft" }],
    checks: Object.entries(checks).map(([name, [live, draft]], place) => {
      const cells = [cell(0, live), cell(1, draft)] as const;
      const standing = standingTo(tallyOf(cells[0]), tallyOf(cells[1]));
      const priced = standing.kind === "perhaps-worse" ? { ...standing, price: null } : standing;
      return {
        place,
        name,
        script: "a",
        text: text(name),
        lines: [1, 2, 3, 4],
        cells: [cells[0], { ...cells[1], standing: priced }],
      };
    }),
  } as unknown as Run;
}

const own = { kind: "column", place: 0 } as const;
const groupsOf = (run: Run, against: Parameters<typeof shownChecks>[1] = own) =>
  shownChecks(run, against).map(({ check, group }) => `${check.name}: ${group}`);

describe("checks of a run", () => {
  it("are read from what is worse to what is as it was", () => {
    const run = runOf({
      untried: ["hhhhh", ""],
      same: ["hhhhh", "hhhhh"],
      better: ["bbbbb", "hhhhh"],
      silent: ["hhhhh", "sssss"],
      broke: ["bbbbb", "bbbbb"],
      perhaps: ["hhhhh", "hhhhb"],
      worse: ["hhhhh", "bbbbb"],
    });
    expect(groupsOf(run)).toEqual([
      "worse: worse",
      "perhaps: perhaps-worse",
      "broke: broke",
      "silent: silent",
      "better: better",
      "same: same",
      "untried: untried",
    ]);
  });

  it("are held against another column, or an earlier run by the names of their columns", () => {
    const run = runOf({ a: ["hhhhh", "bbbbb"] });
    expect(groupsOf(run, { kind: "column", place: 1 })).toEqual(["a: better"]);
    expect(groupsOf(run, { kind: "run", run: runOf({ a: ["hhhhh", "bbbbb"] }) })).toEqual(["a: broke"]);
    expect(groupsOf(run, { kind: "run", run: runOf({ a: ["hhhhh", "hhhhh"] }) })).toEqual(["a: worse"]);
    // an earlier run that did not have it tells nothing
    expect(groupsOf(run, { kind: "run", run: runOf({ b: ["hhhhh", "hhhhh"] }) })).toEqual(["a: broke"]);
  });

  it("have an outcome for each of their lines and trials", () => {
    const [shown] = shownChecks(runOf({ a: ["hbs", "hhh"] }), own);
    if (!shown?.read || !shown.check.cells[0]) throw new Error("It can't be read.");
    expect(outcomesAt(shown.read, 3, shown.check.cells[0])).toBe("hbs");
    expect(outcomesAt(shown.read, 4, shown.check.cells[0])).toBe("hhh");
    expect(tallyOf(shown.check.cells[0])).toEqual({ held: 1, of: 2 });
  });

  it("are titled by what they are held against", () => {
    expect([groupTitle("same", "live"), groupTitle("broke", "revision 3")]).toEqual([
      "As live",
      "Broke, as revision 3",
    ]);
  });
});

describe("checks that were not run", () => {
  it("are those that a run does not have as they stand now", () => {
    const scripts = [{ name: "a", text: `${text("one")}\n${text("two").replace('"a"', '"c"')}\n${text("three")}` }];
    const unrun = unrunChecks(scripts, runOf({ one: ["h", "h"], two: ["h", "h"] }));
    expect(unrun.map(({ check, isChanged }) => [check.name, isChanged])).toEqual([
      ["two", true],
      ["three", false],
    ]);
  });
});
