import type { App, ListedApp } from "@/contract/apps";
import type { Content } from "@/core/revision/revision";
import type { Boot } from "../boot";
import { refuse } from "../refusal";
import type { StoredApp } from "./app-store";

/** The app at an address. @throws {Refusal} `not-found` */
export function appAt({ apps }: Pick<Boot, "apps">, slug: string): StoredApp {
  return apps.bySlug(slug) ?? refuse("not-found", `There is no app ${slug}.`);
}

/** An app as the bench shows it. */
export function viewOfApp({ apps }: Pick<Boot, "apps">, { id, slug, name, draft, liveRevision }: StoredApp): App {
  return { slug, name, draft, draftRevision: apps.numberOf(id, draft) ?? null, latest: apps.latest(id), liveRevision };
}

/** All apps, the last used first. */
export function listApps({ apps, providers }: Pick<Boot, "apps" | "providers">): ListedApp[] {
  const names = new Map(providers.all().map(({ id, name }) => [id, name]));
  return apps.all().map(({ slug, name, draft, liveRevision, conversations, lastUsed }) => ({
    slug,
    name,
    provider: names.get(draft.provider) ?? "a provider that is gone",
    model: draft.model,
    liveRevision,
    conversations,
    lastUsed,
  }));
}

/**
 * Deletes an app with all its conversations: it takes no new replies from here on, what arrives is
 * stopped, and it takes no room a little later.
 */
export async function deleteApp({ apps, conversations, hub, removal }: Boot, app: StoredApp): Promise<void> {
  apps.leave(app.id);
  await Promise.all(conversations.underWayOf(app.id).map((reply) => hub.stop(reply)));
  void removal.start();
}

/** What a plain new app starts from. */
export function plainStart(name: string, provider: string, model: string): Content {
  return {
    prompt: `You are ${name}. Answer briefly and kindly, and say so when you do not know.`,
    variables: {},
    provider,
    model,
    settings: { temperature: 0.7, maxOutput: 800 },
    memory: { kind: "everything" },
  };
}
