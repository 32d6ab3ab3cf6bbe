import type { Needs } from "@/contract/example";
import { placesFor } from "@/core/provider/places";
import type { Content } from "@/core/revision/content";
import { askedOfCalls } from "@/core/revision/variables";
import { refuse } from "../ground/refusal";
import { guardedSchemas } from "../ground/schemas";
import type { HasProviders } from "../providers/provider-store";
import { providerAt } from "../providers/wiring";
import type { HasApps, StoredApp } from "./app-store";

/** The app at an address. @throws {Refusal} `not-found` */
export function appAt({ apps }: HasApps, slug: string): StoredApp {
  return apps.bySlug(slug) ?? refuse("not-found", `There is no app ${slug}.`);
}

/** What a call of an app needs, as its live revision has it. */
export function needsOf({ apps }: HasApps, { id, access, liveRevision }: StoredApp): Needs & Pick<Content, "schema"> {
  const content = apps.revision(id, liveRevision)?.content;
  return { callers: access.callers, asks: content ? askedOfCalls(content) : [], schema: content?.schema };
}

/** The contents by which visitors are answered: what is live, and what is previewed. */
export function servedBy({ apps }: HasApps, app: StoredApp): Content[] {
  return [app.liveRevision, app.previewRevision].flatMap((number) => {
    const revision = number === null ? undefined : apps.revision(app.id, number);
    return revision ? [revision.content] : [];
  });
}

/** The pictures that visitors of the page may send to a content; null where they may send none, or its model sees none. */
export function picturesOnPage(
  { providers }: HasProviders,
  { access }: Pick<StoredApp, "access">,
  content: Content | undefined,
): { most: number; largest: number } | null {
  if (!content || !access.pictures.from.includes("page")) return null;
  const connection = providers.bySlug(content.provider);
  const model = connection && providers.model(connection.id, content.model);
  const { most, largest } = access.pictures;
  return model && placesFor(connection.profile, model).picture === "taken" ? { most, largest } : null;
}

/** Makes an app that speaks through a model, from a plain start. @throws {Refusal} where there is no such model */
export function makeApp(boot: HasApps & HasProviders, name: string, provider: string, model: string): StoredApp {
  const { id, slug } = providerAt(boot, provider);
  if (!boot.providers.model(id, model)) refuse("bad-request", `The provider has no model ${model}.`);
  return boot.apps.make(name, plainStart(name, slug, model), Date.now());
}

/** Stores an edit of a draft. @throws {Refusal} `conflict`, where another edit of the same part came before it */
export function editDraft({ apps }: HasApps, app: StoredApp, read: string, edited: Content): StoredApp {
  const merged = apps.editDraft(app.id, read, sound(edited), Date.now());
  const { slug, name } = app;
  const stored = appAt({ apps }, slug);
  if (merged.kind === "merged") return stored;
  refuse(
    "conflict",
    `The ${merged.parts.join(" and the ")} of ${name}'s draft ${merged.parts.length === 1 ? "was" : "were"} changed in another place meanwhile.`,
    {
      advice: "Choose which of the two is kept.",
      draft: { content: stored.draft, hash: stored.draftHash, parts: merged.parts },
    },
  );
}

/** The app that something belongs to. @throws {Refusal} `not-found` where it was deleted meanwhile */
export function ownerOf({ apps }: HasApps, { app }: { app: string }): StoredApp {
  return apps.byId(app) ?? refuse("not-found", "The app that this belongs to was deleted.");
}

/** A content whose tools can be called, and whose replies can be held against their schema. @throws {Refusal} `bad-request` over a schema that is none, with the place */
export function sound<C extends Content | null | undefined>(content: C): C {
  for (const [at, tool] of (content?.tools ?? []).entries()) {
    const wrong = guardedSchemas.wrongIn(tool.parameters);
    if (wrong !== undefined)
      refuse("bad-request", `content.tools[${at}].parameters: it is no JSON Schema: ${wrong}.`, {
        advice: "Give a JSON Schema (2020-12) of an object, whose references stay in it.",
      });
  }
  const wrong = content?.schema && guardedSchemas.wrongIn(content.schema);
  if (wrong !== undefined)
    refuse("bad-request", `content.schema: it is no JSON Schema: ${wrong}.`, {
      advice: "Give a JSON Schema (2020-12), whose references stay in it.",
    });
  return content;
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
