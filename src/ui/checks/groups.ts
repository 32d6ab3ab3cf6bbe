import type { Cell, CheckScript, Run, RunCheck } from "@/contract/checks";
import { passes, standingTo, type Tally } from "@/core/checks/chance";
import { parseScript, printCheck } from "@/core/checks/parse";
import { type Check, expectedIn, type Line } from "@/core/checks/script";

/** How checks stand, in the order in which they are read. */
export const groups = ["worse", "perhaps-worse", "broke", "silent", "better", "same", "untried"] as const;
export type Group = (typeof groups)[number];

/** What the columns of a run are held against: one of its columns, or the columns of an earlier run. */
export type Against = { kind: "column"; place: number } | { kind: "run"; run: Run };

/** How a cell stands to what it is held against; null where that is itself. */
export type CellStanding = NonNullable<Cell["standing"]> | null;

/** A check of a run as it is shown. */
export interface ShownCheck {
  check: RunCheck;
  read: Check | undefined;
  group: Group;
  standings: CellStanding[];
}

/** The trials of a cell that held, of those that were judged. */
export function tallyOf({ trials }: Pick<Cell, "trials">): Tally {
  const judged = trials.filter(({ outcome }) => outcome !== "silent");
  return { held: judged.filter(({ outcome }) => outcome === "held").length, of: judged.length };
}

/** The checks of a run, those first that are worse. */
export function shownChecks(run: Run, against: Against): ShownCheck[] {
  const shown = run.checks.map((check): ShownCheck => {
    const read = parseScript(check.text).script.checks[0];
    const standings = standingsOf(run, check, against);
    return { check, read, standings, group: groupOf(check, standings, read) };
  });
  return shown.sort((a, b) => groups.indexOf(a.group) - groups.indexOf(b.group) || a.check.place - b.check.place);
}

function standingsOf(run: Run, check: RunCheck, against: Against): CellStanding[] {
  if (against.kind === "column" && against.place === run.against) return check.cells.map(({ standing }) => standing);
  const price = (cell: Cell) => (cell.trials.length > 0 ? run.price / Math.max(run.done, 1) : 0);
  return check.cells.map((cell, place) => {
    const base = baseOf(run, check, place, against);
    if (base === undefined) return null;
    const standing = standingTo(base ? tallyOf(base) : { held: 0, of: 0 }, tallyOf(cell));
    if (standing.kind !== "perhaps-worse") return standing;
    return { ...standing, price: standing.more === null ? null : price(cell) * 2 * standing.more };
  });
}

/** The cell that one is held against: null where there is none, undefined where it is that one itself. */
function baseOf(run: Run, check: RunCheck, place: number, against: Against): Cell | null | undefined {
  if (against.kind === "column") return against.place === place ? undefined : (check.cells[against.place] ?? null);
  const earlier = against.run.checks.find(({ name }) => name === check.name);
  const name = run.columns[place]?.name;
  const same = against.run.columns.findIndex((column) => column.name === name);
  return earlier?.cells[same < 0 ? against.run.against : same] ?? null;
}

function groupOf(check: RunCheck, standings: readonly CellStanding[], read: Check | undefined): Group {
  const has = (kind: string) => standings.some((standing) => standing?.kind === kind);
  if (has("worse")) return "worse";
  if (has("perhaps-worse")) return "perhaps-worse";
  const passed = check.cells.map((cell) => passes(tallyOf(cell), read?.least ?? null));
  if (has("better")) return "better";
  if (passed.includes(false)) return "broke";
  if (check.cells.some(({ trials }) => trials.length === 0)) return "untried";
  return passed.includes(undefined) ? "silent" : "same";
}

/** Where a line of a check stood in its script. */
export function sourceLine({ lines }: RunCheck, read: Check, line: Line): number {
  return lines[read.lines.indexOf(line)] ?? line.line;
}

/** How an expectation came out in each trial of a cell, in order: h, b or s. */
export function outcomesAt(read: Check, line: number, { trials }: Cell): string {
  const at = expectedIn(read).findIndex((each) => each.line === line);
  return trials.map(({ outcomes }) => outcomes[at] ?? "s").join("");
}

/** The name of what a run is held against. */
export function baseName(run: Run | undefined, against: Against): string {
  return against.kind === "run" ? "the earlier run" : (run?.columns[against.place]?.name ?? "live");
}

/** What a group is called, over its checks and in the count of them. @param base the name of what it is held against */
export function groupTitle(group: Group, base: string): string {
  switch (group) {
    case "worse":
      return "Worse";
    case "perhaps-worse":
      return "Perhaps worse";
    case "broke":
      return `Broke, as ${base}`;
    case "silent":
      return "Silent";
    case "better":
      return "Better";
    case "same":
      return `As ${base}`;
    case "untried":
      return "Not tried yet";
  }
}

/** A check as it stands in a script, where a run has none that says just that. */
export interface UnrunCheck {
  script: string;
  check: Check;
  /** Whether the run has one of its name, which said something else. */
  isChanged: boolean;
}

/** The checks of scripts that a run does not have as they stand now. */
export function unrunChecks(
  scripts: readonly Pick<CheckScript, "name" | "text">[],
  run: Run | undefined,
): UnrunCheck[] {
  const read = scripts.map(({ name, text }) => ({ name, script: parseScript(text).script }));
  const filed = read.flatMap(({ script }) => script.filed);
  const texts = new Map(run?.checks.map(({ name, text }) => [name, text]));
  return read.flatMap(({ name: script, script: { checks } }) =>
    checks.flatMap((check) =>
      texts.get(check.name) === printCheck(check, filed) ? [] : [{ script, check, isChanged: texts.has(check.name) }],
    ),
  );
}
