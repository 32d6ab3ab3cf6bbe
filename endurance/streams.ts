import { drawFrom, readMutated } from "../src/core/wire/samples/mutated";

/** Reads a million damaged answers, or as many as are asked for, and tells how they ended: `npm run damage -- 1000000 7`. */
const [runs = 1_000_000, seed = 7] = process.argv.slice(2).map(Number);
const draw = drawFrom(seed);
const ends = new Map<string, number>();
const started = performance.now();
const slice = 50_000;
for (let read = 0; read < runs; read += slice) {
  for (const [name, count] of readMutated(Math.min(slice, runs - read), draw))
    ends.set(name, (ends.get(name) ?? 0) + count);
  console.log(
    `${Math.min(read + slice, runs).toLocaleString("en")} read in ${Math.round((performance.now() - started) / 1000)} s`,
  );
}
const told = [...ends].sort(([, a], [, b]) => b - a).map(([name, count]) => `${count.toLocaleString("en")} ${name}`);
console.log(
  `${runs.toLocaleString("en")} damaged answers, each with one end or one named problem: ${told.join(", ")}.`,
);
