import { quantile, type Rig, read } from "./rig";
import type { Row } from "./run";

const rate = 100;
const seconds = 6;
const rounds = 3;

/** Server CPU per provider event, through the reply endpoint with everything on ÷ the plain relay. */
export async function relayRows(rig: Rig): Promise<Row[]> {
  const events = rate * seconds;
  const replies = await rig.makeApp(rate, events);
  const body = JSON.stringify({ message: "When does the boat leave?", model: `r${rate}n${events}` });
  const ours = JSON.stringify({ message: "When does the boat leave?" });
  await Promise.all([read(replies, ours), read(rig.relay, body)]);

  const rows: Row[] = [];
  for (const streams of [1, 50]) {
    const ratios: number[] = [];
    for (let round = 0; round < rounds; round++) {
      const app = await used(rig, "app", () => read(replies, ours), streams);
      const relay = await used(rig, "relay", () => read(rig.relay, body), streams);
      ratios.push(app / relay);
    }
    rows.push({
      what: `relay: server CPU per event, endpoint ÷ plain relay, ${streams} ${streams === 1 ? "stream" : "streams"} at ${rate} events/s`,
      ratio: quantile(ratios, 0.5),
      bar: 1.7,
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
