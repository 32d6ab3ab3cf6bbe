/**
 * `npm run endurance`: kills, races and poisoned answers on the built application and the real stand-ins,
 * in less than six minutes, each part with a server and a data folder of its own. It prints what was
 * lost, and ends with 1 where something was.
 */
import { World } from "../e2e/world";
import { fullDisk, killsAtTheEnd, othersKeys, stalledTab } from "./ends";
import { kills } from "./kills";
import { runPoisons } from "./poison";
import { runRaces } from "./races";
import { Tally } from "./tally";
import { killsInTools } from "./tool-kills";

/** Kills in each of two worlds. */
const rounds = 30;
/** Kills as an import comes to its end, and while tools are called. */
const ends = 8;

type Part = [name: string, run: (world: World, tally: Tally) => Promise<void>];

const worlds: Part[][] = [
  [[`${rounds} kills under load`, (world, tally) => kills(world, tally, rounds)]],
  [[`${rounds} kills under load, beside them`, (world, tally) => kills(world, tally, rounds)]],
  [
    ["Poisoned answers of a provider", runPoisons],
    ["Races of two calls", runRaces],
    ["Strangers with another's key", othersKeys],
    ["A tab that stalls", stalledTab],
    ["A full disk", fullDisk],
    [`${ends} kills while tools are called`, (world, tally) => killsInTools(world, tally, ends)],
    [`${ends} kills at an end`, (world, tally) => killsAtTheEnd(world, tally, ends)],
  ],
];

/** Runs parts one after the other in a world of their own; says whether nothing was lost. */
async function runIn(world: World, parts: Part[]): Promise<boolean> {
  let isWhole = true;
  try {
    await world.start();
    for (const [name, run] of parts) {
      const tally = new Tally(name);
      const started = performance.now();
      try {
        await run(world, tally);
        const health = (await (await fetch(`${world.address}/api/health`)).json()) as { ok: boolean };
        tally.expects(health.ok, `health says ${JSON.stringify(health)}`);
      } catch (error) {
        tally.lost(`it could not go on: ${(error as Error).stack}`);
      }
      isWhole &&= tally.isWhole;
      console.log(tally.report((performance.now() - started) / 1000));
    }
  } finally {
    await world.stop();
  }
  return isWhole;
}

const began = performance.now();
const whole: Promise<boolean>[] = [];
for (const parts of worlds) whole.push(runIn(await World.make(), parts));
const isWhole = (await Promise.all(whole)).every(Boolean);
const seconds = Math.round((performance.now() - began) / 1000);
console.log(`${isWhole ? "Nothing was lost" : "Something was lost"}, in ${seconds} s.`);
process.exit(isWhole ? 0 : 1);
