import type { World } from "../e2e/world";
import type { Content } from "../src/core/revision/content";
import { Caller, readAll, sings } from "./caller";
import type { Tally } from "./tally";

const stream = { accept: "text/event-stream" };
const async = { prefer: "respond-async" };
const story = "Tell me a story about the ferry";

/** A race of two calls; what comes of each may differ, but each is answered in order and nothing else suffers. */
type Race = (world: World, round: number, tally: Tally) => Promise<void>;

const soon = (most = 60) => new Promise((resolve) => setTimeout(resolve, Math.random() * most));

/** Whether an answer is one that a call may get: none of the server's own mistakes. */
function expectsSane(response: Response, tally: Tally, what: string): void {
  tally.expects(response.status < 500, `${what}: status ${response.status}`);
}

const deleteWhileAsking: Race = async (world, round, tally) => {
  const slug = await world.makeApp(`Delete ${round}`, { settings: {} });
  const caller = new Caller(world, slug);
  const first = (await (await caller.ask({ message: "Hello" })).json()) as { conversation: string; reply: string };
  await world.pace(200);
  const asks = Array.from({ length: 6 }, async () => {
    await soon();
    const response = await caller.ask({ message: story, conversation: first.conversation, after: first.reply }, stream);
    expectsSane(response, tally, "asking while it is deleted");
    const events = await readAll(response);
    const last = events.at(-1)?.event;
    if (response.ok)
      tally.expects(last === "end" || last === "problem", "a reply in a deleted conversation has no end");
  });
  await soon();
  const gone = await caller.call(`conversations/${first.conversation}`, { method: "DELETE" });
  tally.expects(gone.status === 204, `deleting while asking: status ${gone.status}`);
  await Promise.all(asks);
  const after = await caller.ask({ message: "Hello", conversation: first.conversation });
  tally.expects(after.status === 404, `a deleted conversation answers ${after.status}`);
};

const deleteAppWhileCalled: Race = async (world, round, tally) => {
  const slug = await world.makeApp(`Leaving ${round}`, { settings: {} });
  await world.pace(200);
  const asks = Array.from({ length: 8 }, async () => {
    await soon();
    const response = await new Caller(world, slug).ask({ message: story }, stream);
    expectsSane(response, tally, "asking while the app is deleted");
    await readAll(response);
  });
  await soon();
  await world.bench("DELETE", `apps/${slug}`);
  await Promise.all(asks);
  const after = await new Caller(world, slug).ask({ message: "Hello" });
  tally.expects(after.status === 404, `a deleted app answers ${after.status}`);
};

const stopWhileEnding: Race = async (world, round, tally) => {
  const slug = await world.makeApp(`Stop ${round}`);
  const caller = new Caller(world, slug);
  await world.pace("instant");
  const { reply } = (await (await caller.ask({ message: "What is 12 * 7?" }, async)).json()) as { reply: string };
  await soon(20);
  const stops = await Promise.all([1, 2].map(() => caller.call(`replies/${reply}/stop`, { method: "POST" })));
  const states = await Promise.all(stops.map(async (each) => ((await each.json()) as { state: string }).state));
  tally.expects(states[0] === states[1], `two stops said ${states.join(" and ")}`);
  tally.expects(["complete", "stopped"].includes(states[0] ?? ""), `a stopped reply is ${states[0]}`);
  const standing = (await (await caller.call(`replies/${reply}`)).json()) as { state: string };
  tally.expects(standing.state === states[0], `it was ${states[0]} and is ${standing.state}`);
};

const editWhileSending: Race = async (world, round, tally) => {
  const slug = await world.makeApp(`Edit ${round}`);
  const { draft, draftHash } = await world.bench<{ draft: Content; draftHash: string }>("GET", `apps/${slug}`);
  await world.pace("instant");
  const edits = Array.from({ length: 5 }, async (_, at) => {
    await soon();
    const body = JSON.stringify({ content: { ...draft, prompt: `You are number ${at}.` }, draftHash });
    const { status } = await fetch(`${world.address}/api/bench/apps/${slug}/draft`, { method: "PUT", body });
    return status;
  });
  const asks = Array.from({ length: 5 }, async () => {
    await soon();
    await world.bench("POST", `apps/${slug}/replies`, { message: "What is 12 * 7?" });
  });
  const statuses = await Promise.all(edits);
  await Promise.all(asks);
  const stored = statuses.filter((status) => status === 200).length;
  tally.expects(stored === 1, `of five edits of one draft ${stored} were stored: ${statuses.join(", ")}`);
  const app = await world.bench<{ latest: { number: number } }>("GET", `apps/${slug}`);
  tally.expects(app.latest.number <= 2, `one edit made ${app.latest.number} revisions`);
};

const sameKeyTwice: Race = async (world, round, tally) => {
  const slug = await world.makeApp(`Key ${round}`);
  const caller = new Caller(world, slug);
  await caller.ask({ message: "Hello" });
  const answers = await Promise.all(
    [1, 2, 3].map(async () => {
      await soon(10);
      return (await caller.ask({ message: "What is 12 * 7?" }, { "idempotency-key": `key-${round}` })).json();
    }),
  );
  const replies = new Set((answers as { reply: string }[]).map(({ reply }) => reply));
  tally.expects(replies.size === 1, `one key gave ${replies.size} replies`);
};

const twoSignals: Race = async (world, _round, tally) => {
  const slug = await world.makeApp("Signals", { settings: {} });
  await world.pace(100);
  const reading = readAll(await new Caller(world, slug).ask({ message: story }, stream));
  await soon();
  const began = performance.now();
  world.signalWeb("SIGTERM");
  // one that comes at once is the same; one that comes later ends it at once
  await new Promise((resolve) => setTimeout(resolve, 500));
  const code = await world.endWeb("SIGTERM");
  tally.expects(performance.now() - began < 5_000, "two signals took longer than five seconds");
  tally.expects(code === 130, `the second signal ended it with ${code}`);
  await reading;
  await world.startWeb();
};

const races: [name: string, race: Race, rounds: number][] = [
  ["delete while asking", deleteWhileAsking, 10],
  ["delete an app while callers post", deleteAppWhileCalled, 10],
  ["stop while ending", stopWhileEnding, 20],
  ["edit while sending", editWhileSending, 10],
  ["one key, three calls", sameKeyTwice, 10],
  ["two signals", twoSignals, 3],
];

/** Races of two calls, each followed by a canary that must answer. */
export async function runRaces(world: World, tally: Tally): Promise<void> {
  const canary = await world.makeApp("Canary");
  for (const [name, race, rounds] of races)
    for (let round = 0; round < rounds; round++) {
      await race(world, round, tally);
      await world.pace("instant");
      const silence = await sings(world, canary);
      tally.expects(silence === undefined, `after ${name}, round ${round}: ${silence}`);
      tally.count(name);
    }
}
