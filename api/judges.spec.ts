import type { Run } from "@/contract/checks";
import type { Job } from "@/contract/jobs";
import type { JudgedByHand, Judges } from "@/contract/judges";
import type { Content } from "@/core/revision/content";
import { expect, test, type World } from "../e2e/fixtures";

// what is in quotes is written otherwise in a script
const rubric = 'names a "price"';
const written = rubric.replaceAll('"', '\\"');
const script = `check  says what it costs\nvisitor  What does a bicycle cost?\n    meets "${written}"\n`;

async function ran(world: World, slug: string): Promise<Run> {
  const { draft: content } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  const columns = [{ name: "live", base: "live" as const, content }];
  const { id } = await world.bench<Run>("POST", `apps/${slug}/runs`, { columns });
  const state = async () => (await world.bench<Run>("GET", `runs/${id}`)).state;
  await expect.poll(state, { timeout: 60_000 }).not.toMatch(/running|waiting/);
  return world.bench<Run>("GET", `runs/${id}`);
}

const judgesOf = (world: World, slug: string) => world.bench<Judges>("GET", `apps/${slug}/judges`);

async function asked(world: World, slug: string): Promise<Job> {
  const { id } = await world.bench<Job>("POST", `apps/${slug}/judgements`, { rubric });
  const job = () => world.bench<Job>("GET", `jobs/${id}`);
  await expect.poll(async () => (await job()).state, { timeout: 60_000 }).not.toMatch(/running|waiting/);
  return job();
}

test("a rubric is an opinion until its judge agreed with thirty replies each way that were judged by hand, and again after each change of the judge", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Judged", { prompt: "You are Quay Desk of Saltmarsh Ferry.", model: "reed-deep" });
  await world.bench("PUT", `apps/${slug}/checks/a`, { text: script, was: null });

  // nobody judges
  expect((await ran(world, slug)).checks[0]?.cells[0]).toMatchObject({ trials: [{ outcome: "held", outcomes: "s" }] });
  await expect(world.bench("POST", `apps/${slug}/judgements`, { rubric })).rejects.toThrow(/no judge/);
  const { provider } = (await world.bench<{ draft: Content }>("GET", `apps/${slug}`)).draft;
  await expect(world.bench("PUT", `apps/${slug}/judge`, { judge: { provider, model: "reed-none" } })).rejects.toThrow(
    /reed-none/,
  );
  await world.bench("PUT", `apps/${slug}/judge`, { judge: { provider, model: "reed-deep" } });

  // an opinion, in the judge's own words
  const opinion = (await ran(world, slug)).checks[0]?.cells[0];
  expect(opinion?.trials).toMatchObject([{ outcome: "held", outcomes: "s" }]);
  const standing = (await judgesOf(world, slug)).rubrics[0];
  expect(standing).toMatchObject({ rubric, checks: ["says what it costs"], counts: false, meets: { of: 0 } });

  // replies of trials are there to be judged, and one's own are judged beside them
  const { replies } = await world.bench<{ replies: JudgedByHand[] }>(
    "GET",
    `apps/${slug}/judged-replies?rubric=${encodeURIComponent(rubric)}`,
  );
  expect(replies[0]).toMatchObject({ message: "What does a bicycle cost?", byHand: null, judge: null });
  const byHand = (reply: string, verdict: string | null) =>
    world.bench("PUT", `apps/${slug}/judged-replies`, { rubric, message: "What does it cost?", reply, verdict });
  for (let at = 1; at <= 30; at++) {
    await byHand(`It costs €${at}.00.`, "meets");
    await byHand(`Ask my colleague number ${at}.`, "misses");
  }
  expect((await judgesOf(world, slug)).rubrics[0]).toMatchObject({ counts: false, unasked: 60 });
  const job = await asked(world, slug);
  expect([job.state, job.done, job.of, job.price > 0]).toEqual(["done", 60, 60, true]);
  const proven = (await judgesOf(world, slug)).rubrics[0];
  expect(proven).toMatchObject({
    counts: true,
    unasked: 0,
    meets: { agreed: 30, of: 30 },
    misses: { agreed: 30, of: 30 },
  });
  expect(proven?.meets.low).toBeCloseTo(0.886, 2);
  await expect(world.bench("POST", `apps/${slug}/judgements`, { rubric })).rejects.toThrow(/each of these replies/);

  // now it counts: held, and broken where it is expected otherwise
  expect((await ran(world, slug)).checks[0]?.cells[0]?.trials).toMatchObject([{ outcomes: "h" }]);
  await world.bench("PUT", `apps/${slug}/checks/b`, {
    text: script.replace("says what", "keeps from saying what").replace("meets", "does not meet"),
    was: null,
  });
  const broken = (await ran(world, slug)).checks.find(({ name }) => name.startsWith("keeps"))?.cells[0];
  expect(broken?.trials).toMatchObject([{ outcome: "broke", outcomes: "b" }]);
  expect(JSON.stringify(broken?.misses[0]?.judged)).toContain("the reply has a price");

  // another judge is an opinion again, though what was judged by hand stays
  await world.bench("PUT", `apps/${slug}/judge`, { judge: { provider, model: "reed-swift" } });
  expect((await judgesOf(world, slug)).rubrics[0]).toMatchObject({ counts: false, unasked: 60, meets: { of: 30 } });
  expect((await ran(world, slug)).checks[0]?.cells[0]?.trials).toMatchObject([{ outcome: "held", outcomes: "s" }]);

  // what is taken back is gone, and one that disagrees is told
  await byHand("It costs €1.00.", null);
  await byHand("It costs €2.00.", "misses");
  await asked(world, slug);
  expect((await judgesOf(world, slug)).rubrics[0]).toMatchObject({
    counts: false,
    meets: { agreed: 28, of: 28 },
    misses: { agreed: 30, of: 31 },
  });
});

test("a judge that can't be asked leaves its line unjudged, with the reason, and the check as it is", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Judge away", { prompt: "You are Quay Desk." });
  await world.bench("PUT", `apps/${slug}/checks/a`, { text: `${script}    has no table\n`, was: null });
  await world.bench("PATCH", `providers/${await world.wire("Saltpan")}`, { retries: 0 });
  const { providers } = await world.bench<{ providers: { name: string; slug: string }[] }>("GET", "providers");
  const provider = providers.find(({ name }) => name === "Saltpan")?.slug;
  await world.bench("PUT", `apps/${slug}/judge`, { judge: { provider, model: "pan-clear" } });
  await world.fault({ fault: "status", status: 503 }, "Saltpan");
  const { trials, misses } = (await ran(world, slug)).checks[0]?.cells[0] ?? { trials: [], misses: [] };
  expect(trials).toMatchObject([{ outcome: "held", outcomes: "sh" }]);
  expect(JSON.stringify(misses)).toContain("503");
});
