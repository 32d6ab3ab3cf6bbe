import type { Run } from "@/contract/checks";
import type { Content } from "@/core/revision/content";
import type { Rig } from "./rig";
import type { Row } from "./row";

const checks = 16;
const columns = 5;
const trials = 5;
/** Questions of each check. */
const asks = 2;
/** Calls that each provider takes at once; jobs leave one place free. */
const places = 9;
/** Events a second, and of an answer. */
const rate = 20;
const count = 20;

/** A run of checks, each column on a provider of its own, ÷ the same calls straight to the source with as many at once. */
export async function checksRows(rig: Rig): Promise<Row[]> {
  const apps = [];
  for (let at = 0; at < columns; at++) apps.push(await appOf(rig, await rig.makeApp(rate, count)));
  const [first] = apps;
  if (!first) throw new Error("There is no app.");
  const model = first.content.model;
  const allowed = await wall(() => straight(rig, model));
  const contents = apps.map(({ content }) => content);
  const took = await wall(() => run(rig, first.slug, contents));
  return [
    {
      what: `checks: ${checks} × ${columns} columns × ${trials} trials ÷ the same calls straight, as many at once`,
      ratio: took / allowed,
      bar: 1.2,
      isMost: true,
    },
  ];
}

async function wall(work: () => Promise<void>): Promise<number> {
  const started = performance.now();
  await work();
  return performance.now() - started;
}

/** The address of an app and its content; its provider is given its places. */
async function appOf(rig: Rig, replies: string): Promise<{ slug: string; content: Content }> {
  const slug = new URL(replies).pathname.split("/")[3] ?? "";
  const { draft } = await bench<{ draft: Content }>(rig, "GET", `apps/${slug}`);
  const { providers } = await bench<{ providers: { id: string; slug: string }[] }>(rig, "GET", "providers");
  const provider = providers.find((each) => each.slug === draft.provider);
  await bench(rig, "PATCH", `providers/${provider?.id}`, { atOnce: places });
  return { slug, content: draft };
}

/** What all trials ask, straight from the source: a trial's questions one after another, and no more at once than jobs may. */
async function straight(rig: Rig, model: string): Promise<void> {
  const body = JSON.stringify({ model, stream: true, messages: [{ role: "user", content: "Question" }] });
  const call = async () => {
    const response = await fetch(`${rig.source}/chat-completions`, { method: "POST", body });
    await response.text();
  };
  const column = async () => {
    let left = checks * trials;
    const place = async () => {
      while (left > 0) {
        left -= 1;
        for (let ask = 0; ask < asks; ask++) await call();
      }
    };
    await Promise.all(Array.from({ length: places - 1 }, place));
  };
  await Promise.all(Array.from({ length: columns }, column));
}

/** The same as a run of checks. */
async function run(rig: Rig, slug: string, contents: readonly Content[]): Promise<void> {
  const one = (at: number) =>
    `check  number ${at}\n${Array.from({ length: asks }, (_, ask) => `visitor  Question ${ask}\n    ends complete\n    at least 1 word\n`).join("")}`;
  const { id } = await bench<Run>(rig, "POST", `apps/${slug}/runs`, {
    scripts: [{ name: "bench", text: Array.from({ length: checks }, (_, at) => one(at)).join("\n") }],
    columns: contents.map((content, at) => ({ name: `column ${at}`, base: "live", content })),
    trials,
  });
  for (;;) {
    const { state, held } = await bench<Run>(rig, "GET", `runs/${id}`);
    if (state !== "running" && state !== "waiting") {
      if (held !== checks * columns * trials) throw new Error(`Of the trials ${held} held, and the run is ${state}.`);
      return;
    }
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

async function bench<T>(rig: Rig, method: string, path: string, body?: object): Promise<T> {
  const response = await fetch(`${rig.app}/api/bench/${path}`, { method, body: body && JSON.stringify(body) });
  if (!response.ok) throw new Error(await response.text());
  return (response.status === 204 ? undefined : await response.json()) as T;
}
