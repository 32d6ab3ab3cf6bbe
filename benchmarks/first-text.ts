import { EmptyApp } from "./empty-app";
import { quantile, type Rig, read } from "./rig";
import type { Row } from "./row";

const calls = 200;

/** Time to the first text: (endpoint − straight to the source) ÷ the round trip of an empty route of the framework. */
export async function firstTextRows(rig: Rig): Promise<Row[]> {
  const replies = await rig.makeApp(1000, 1);
  const ours = JSON.stringify({ message: "When does the boat leave?" });
  const straight = JSON.stringify({ model: "r1000n1" });
  const samples = { app: [] as number[], source: [] as number[], empty: [] as number[] };
  const framework = await EmptyApp.make();
  try {
    for (let call = -50; call < calls; call++) {
      const app = (await read(replies, ours)).firstText;
      const source = (await read(rig.source, straight)).firstText;
      const empty = (await read(framework.route)).whole;
      if (call < 0) continue;
      samples.app.push(app);
      samples.source.push(source);
      samples.empty.push(empty);
    }
  } finally {
    framework.stop();
  }
  return [0.5, 0.95].map((share) => ({
    what: `first text: (endpoint − straight) ÷ an empty route of the framework, ${share === 0.5 ? "median" : "95th"} of ${calls}`,
    ratio: (quantile(samples.app, share) - quantile(samples.source, share)) / quantile(samples.empty, share),
    bar: 2.5,
    isMost: true,
  }));
}
