import { writeFileSync } from "node:fs";
import { besideRows } from "./beside";
import { browserRows, longestTaskRows } from "./browser";
import { decoderRows } from "./decoder";
import { firstTextRows } from "./first-text";
import { historyRows } from "./history";
import { manyStreamsRows } from "./many-streams";
import { memoryRows } from "./memory";
import { pageRows } from "./page";
import { relayRows } from "./relay";
import { Rig } from "./rig";
import type { Row } from "./row";
import { storeRows } from "./stores";
import { tabRows } from "./tab";

/** Every group of rows, by the name under which it can be measured alone: `npm run bench -- stores tab`. */
const groups: Record<string, (rig: Rig) => Row[] | Promise<Row[]>> = {
  decoder: decoderRows,
  stores: storeRows,
  memory: memoryRows,
  history: historyRows,
  beside: besideRows,
  "first-text": firstTextRows,
  relay: relayRows,
  "many-streams": manyStreamsRows,
  tab: tabRows,
  page: pageRows,
  browser: browserRows,
  "longest-task": longestTaskRows,
};

const asked = process.argv.slice(2);
const unknown = asked.find((name) => !(name in groups));
if (unknown) throw new Error(`There is no group ${unknown}; there are ${Object.keys(groups).join(", ")}.`);

const rows: Row[] = [];
const rig = await Rig.make();
try {
  await rig.start();
  for (const [name, measure] of Object.entries(groups))
    if (asked.length === 0 || asked.includes(name)) {
      const measured = await measure(rig);
      measured.forEach(print);
      rows.push(...measured);
      // a connection that the server closed while this process was busy is let go of before the next call
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
} finally {
  await rig.stop();
}

function print({ what, ratio, bar, isMost }: Row): void {
  const isMet = isMost ? ratio <= bar : ratio >= bar;
  console.log(
    `${isMet ? "met   " : "missed"}  ${ratio.toFixed(2).padStart(6)}  ${isMost ? "≤" : "≥"} ${String(bar).padEnd(4)}  ${what}`,
  );
}

// the figures on record are those of a whole run
if (asked.length === 0) {
  const measured = rows.map(({ what, ratio, bar, isMost }) => ({
    what,
    ratio: Number(ratio.toFixed(3)),
    [isMost ? "most" : "least"]: bar,
  }));
  writeFileSync(
    "benchmarks/latest.json",
    `${JSON.stringify({ at: new Date().toISOString().slice(0, 10), rows: measured }, null, 2)}\n`,
  );
}
