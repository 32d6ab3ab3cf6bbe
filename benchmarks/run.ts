import { writeFileSync } from "node:fs";
import { browserRows, longestTaskRows } from "./browser";
import { decoderRows } from "./decoder";
import { firstTextRows } from "./first-text";
import { relayRows } from "./relay";
import { Rig } from "./rig";

const rows = decoderRows();
const rig = await Rig.make();
try {
  await rig.start();
  rows.push(
    ...(await firstTextRows(rig)),
    ...(await relayRows(rig)),
    ...(await browserRows(rig)),
    ...(await longestTaskRows(rig)),
  );
} finally {
  await rig.stop();
}

for (const { what, ratio, bar, isMost } of rows) {
  const isMet = isMost ? ratio <= bar : ratio >= bar;
  console.log(
    `${isMet ? "met   " : "missed"}  ${ratio.toFixed(2).padStart(6)}  ${isMost ? "≤" : "≥"} ${String(bar).padEnd(4)}  ${what}`,
  );
}
const measured = rows.map(({ what, ratio, bar, isMost }) => ({
  what,
  ratio: Number(ratio.toFixed(3)),
  [isMost ? "most" : "least"]: bar,
}));
writeFileSync(
  "benchmarks/latest.json",
  `${JSON.stringify({ at: new Date().toISOString().slice(0, 10), rows: measured }, null, 2)}\n`,
);
