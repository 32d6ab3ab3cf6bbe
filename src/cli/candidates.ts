import { apps } from "@/contract/apps";
import type { Client } from "@/contract/client";
import type { WantedLane } from "@/contract/comparisons";
import { type Provider, providers } from "@/contract/providers";
import { revisions } from "@/contract/revisions";
import type { Content } from "@/core/revision/content";

/** A candidate that can't be had. */
export class Unfit extends Error {}

/** The candidates by their names: `live`, `draft`, the number of a revision, or a model in the place of the live one's. */
export async function candidatesOf(
  client: Client,
  slug: string,
  names: readonly string[],
): Promise<(WantedLane & { name: string })[]> {
  const app = await client.send(apps.read, { slug });
  const { providers: wired } = await client.send(providers.list, {});
  const live = await revisionOf(client, slug, app.liveRevision);
  const found: (WantedLane & { name: string })[] = [];
  for (const name of names) {
    if (name === "live") found.push({ name, base: "live", content: live });
    else if (name === "draft") found.push({ name, base: "draft", content: app.draft });
    else if (/^\d+$/.test(name)) {
      const base = Number(name);
      found.push({ name: `revision ${name}`, base, content: await revisionOf(client, slug, base) });
    } else found.push({ name, base: "live", content: { ...live, ...modelOf(wired, name), fallbacks: undefined } });
  }
  return found;
}

async function revisionOf(client: Client, slug: string, number: number): Promise<Content> {
  const page = await client.send(revisions.list, { slug, before: number + 1 });
  const found = page.revisions.find((revision) => revision.number === number);
  if (!found) throw new Unfit(`${slug} has no revision ${number}.`);
  return found.content;
}

/** A model by its name, or by its provider's and its own with a slash between. */
function modelOf(wired: readonly Provider[], name: string): { provider: string; model: string } {
  const all = wired.flatMap(({ slug, models }) => models.map((model) => ({ provider: slug, model: model.name })));
  const found = all.filter(({ provider, model }) => model === name || `${provider}/${model}` === name);
  const [first, second] = found;
  if (first && !second) return first;
  if (first)
    throw new Unfit(
      `Several providers have a model ${name}: ${found.map((each) => `${each.provider}/${each.model}`).join(", ")}.`,
    );
  throw new Unfit(
    `There is no model ${name}; there are ${all.map(({ model }) => model).join(", ")}, live, draft and revisions by their numbers.`,
  );
}
