import { readFileSync, writeFileSync } from "node:fs";
import { besideRows } from "./beside";
import { browserRows, longestTaskRows } from "./browser";
import { checksRows } from "./checks";
import { decoderRows } from "./decoder";
import { firstTextRows } from "./first-text";
import { guardsRows } from "./guards";
import { historyRows } from "./history";
import { lanesRows } from "./lanes";
import { manyStreamsRows } from "./many-streams";
import { memoryRows } from "./memory";
import { pageRows } from "./page";
import { passagesRows } from "./passages";
import { relayRows } from "./relay";
import { Rig } from "./rig";
import { isMet, medianOf, type Row, tableOf } from "./row";
import { storeRows } from "./stores";
import { tabRows } from "./tab";

/** Every group of rows, by the name under which it can be measured alone: `npm run bench -- stores tab`. */
const groups: Record<string, (rig: Rig) => Row[] | Promise<Row[]>> = {
  decoder: decoderRows,
  stores: storeRows,
  memory: memoryRows,
  history: historyRows,
  passages: passagesRows,
  beside: besideRows,
  "first-text": firstTextRows,
  guards: guardsRows,
  relay: relayRows,
  "many-streams": manyStreamsRows,
  tab: tabRows,
  page: pageRows,
  browser: browserRows,
  "longest-task": longestTaskRows,
  lanes: lanesRows,
  checks: checksRows,
};

const asked = process.argv.slice(2);
const unknown = asked.find((name) => !(name in groups));
if (unknown) throw new Error(`There is no group ${unknown}; there are ${Object.keys(groups).join(", ")}.`);

/** How often all is measured. */
const passes = 3;

const measured: Row[][] = [];
/** Groups that could not be measured. */
const failed: string[] = [];
const rig = await Rig.make();
try {
  await rig.start();
  for (let pass = 1; pass <= passes; pass += 1) {
    console.log(`pass ${pass} of ${passes}`);
    const rows: Row[] = [];
    for (const [name, measure] of Object.entries(groups))
      if (asked.length === 0 || asked.includes(name)) {
        const found = await withoutFail(name, () => measure(rig));
        for (const row of found) console.log(lineOf(row));
        rows.push(...found);
        // what a group leaves to do is not measured with the next one
        await rig.calm();
      }
    measured.push(rows);
  }
} finally {
  await rig.stop();
}

const rows = medianOf(measured);
console.log(`the median of ${passes}, and from which to which it was measured`);
for (const row of rows) console.log(`${lineOf(row)}, ${row.lowest.toFixed(2)} to ${row.highest.toFixed(2)}`);

if (failed.length > 0) {
  console.error(`Not measured in each pass: ${failed.join(", ")}. Nothing is put on record.`);
  process.exitCode = 1;
}
// the figures on record, and those that users read, are those of a whole run
if (asked.length === 0 && failed.length === 0) {
  const at = new Date().toISOString().slice(0, 10);
  const exact = (value: number) => Number(value.toFixed(3));
  const record = rows.map(({ what, ratio, lowest, highest, bar, isMost }) => ({
    what,
    median: exact(ratio),
    lowest: exact(lowest),
    highest: exact(highest),
    [isMost ? "most" : "least"]: bar,
  }));
  writeFileSync("benchmarks/latest.json", `${JSON.stringify({ at, passes, rows: record }, null, 2)}\n`);
  const readme = readFileSync("README.md", "utf8");
  writeFileSync("README.md", readme.replace(/^\| what \|.*\n(?:\|.*\n)+/m, `${tableOf(rows)}\n`));
}

/** What a group measures; none where it fails, so that it takes no other down with it. */
async function withoutFail(name: string, measure: () => Row[] | Promise<Row[]>): Promise<Row[]> {
  try {
    return await measure();
  } catch (error) {
    console.error(`${name} could not be measured:`, error);
    failed.push(name);
    return [];
  }
}

function lineOf(row: Row): string {
  const { what, ratio, bar, isMost } = row;
  return `${isMet(row) ? "met   " : "missed"}  ${ratio.toFixed(2).padStart(6)}  ${isMost ? "≤" : "≥"} ${String(bar).padEnd(4)}  ${what}`;
}
