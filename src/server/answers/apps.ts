import type { App, ListedApp } from "@/contract/apps";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasProviders } from "../providers/provider-store";

/** Characters of a system prompt that say what an app is for. */
const longestPurpose = 160;

/** An app as the bench shows it. */
export function appAnswer({ apps }: HasApps, { id, slug, name, draft, draftHash, liveRevision }: StoredApp): App {
  const draftRevision = apps.numberOf(id, draftHash) ?? null;
  return { slug, name, draft, draftHash, draftRevision, latest: apps.latest(id), liveRevision };
}

/** All apps, the last used first. */
export function listedApps({ apps, providers }: HasApps & HasProviders): ListedApp[] {
  const names = new Map(providers.all().map(({ slug, name }) => [slug, name]));
  return apps.all().map(({ slug, name, draft, liveRevision, conversations, lastUsed }) => ({
    slug,
    name,
    purpose: beginningOf(draft.prompt),
    provider: names.get(draft.provider) ?? "a provider that is gone",
    model: draft.model,
    liveRevision,
    conversations,
    lastUsed,
  }));
}

/** The first sentences of a prompt, as far as they say something in one line. */
function beginningOf(prompt: string): string {
  const line = prompt.replace(/\s+/g, " ").trim();
  return line.length > longestPurpose ? `${line.slice(0, longestPurpose - 1).trimEnd()}…` : line;
}
