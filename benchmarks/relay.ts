import { quantile, type Rig, read } from "./rig";
import type { Row } from "./row";
import { shapes } from "./shapes";

const rate = 100;
const seconds = 5;
const rounds = 3;
/** Streams of each, before anything is measured. */
const warming = 50;
const message = "When does the boat leave?";

/** Server CPU per provider event, through the reply endpoint with everything on ÷ the plain relay, for every streaming shape. */
export async function relayRows(rig: Rig): Promise<Row[]> {
  const rows: Row[] = [];
  for (const name of Object.keys(shapes)) rows.push(...(await shapeRows(rig, name)));
  return rows;
}

async function shapeRows(rig: Rig, name: string): Promise<Row[]> {
  const events = rate * seconds;
  const replies = await rig.makeApp(rate, events, name);
  const straight = JSON.stringify({ message, model: `r${rate}n${events}` });
  const ours = JSON.stringify({ message });
  const relayed = `${rig.relay}/${name}`;
  // both have been called so often that what they run is compiled: else the first shapes show how fast that is done
  for (const call of [() => read(replies, ours), () => read(relayed, straight)])
    await Promise.all(Array.from({ length: warming }, call));

  const rows: Row[] = [];
  for (const streams of [1, 50]) {
    const ratios: number[] = [];
    for (let round = 0; round < rounds; round++) {
      const app = await used(rig, "app", () => read(replies, ours), streams);
      const relay = await used(rig, "relay", () => read(relayed, straight), streams);
      ratios.push(app / relay);
    }
    rows.push({
      what: `relay: server CPU per event, endpoint ÷ plain relay, ${name}, ${streams} ${streams === 1 ? "stream" : "streams"} at ${rate} events/s`,
      ratio: quantile(ratios, 0.5),
      bar: 1.6,
      isMost: true,
    });
  }
  return rows;
}

async function used(rig: Rig, which: "app" | "relay", call: () => Promise<unknown>, streams: number): Promise<number> {
  const before = rig.cpu(which);
  await Promise.all(Array.from({ length: streams }, call));
  return (rig.cpu(which) - before) / (streams * rate * seconds);
}
