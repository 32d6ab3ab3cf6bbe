import { speaks } from "@/core/provider/model";
import type { Content } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import { broughtKinds, type Wanted, type With, wantedContent } from "@/core/serving/access";
import { type Brought, broughtContent } from "@/core/serving/brought";
import { Refusal, refuse } from "../ground/refusal";
import { guardedSchemas } from "../ground/schemas";
import type { Speaker } from "../making/types";
import type { HasProviders, StoredModel, StoredProvider } from "../providers/provider-store";
import type { HasApps, StoredApp } from "./app-store";
import type { HasContents } from "./content-store";

/** A model that an app speaks through. */
export interface Chosen extends Speaker {
  connection: StoredProvider;
  model: StoredModel;
}

/**
 * The content that answers, and the number of the revision that it is, or that it was changed from: visitors get the
 * live revision, or the preview, with what the developer lets them choose; at the bench the draft becomes the next one.
 */
export function revisionFor(
  { apps, contents }: HasContents & HasApps,
  app: StoredApp,
  by: "bench" | "visitor",
  asked: With & Brought,
  now: number,
): Revision {
  const changed = (number: number, content: Content) => ({ number, hash: contents.keep(content, now), content });
  if (by === "bench") {
    const number = apps.fix(app.id, app.draftHash, now);
    return changed(number, had(broughtContent(candidateOf(app.draft, asked), asked, atBench, guardedSchemas)));
  }
  if (asked.preview && app.previewRevision === null)
    refuse("not-found", `${app.name} has no preview.`, { advice: "Leave out `preview`." });
  const number = (asked.preview && app.previewRevision) || app.liveRevision;
  const revision = apps.revision(app.id, number);
  if (!revision) throw new Error(`App ${app.slug} has no revision ${number}.`);
  const { tools, schema, ...wanted } = asked;
  const chosen = had(wantedContent(revision.content, app.access, wanted));
  const content = had(broughtContent(chosen, { tools, schema }, app.access, guardedSchemas));
  return content === revision.content ? revision : changed(number, content);
}

/** Whoever is at the bench may bring along all there is. */
const atBench = { brings: [...broughtKinds] };

/** @throws {Refusal} where it can't be had */
function had(wanted: Wanted): Content {
  if (!wanted.ok) throw new Refusal(wanted.problem);
  return wanted.content;
}

/** A content with the model and the settings that the bench wants for one reply. */
function candidateOf(content: Content, { provider, model, settings }: With): Content {
  const changed = settings ? { ...content, settings: { ...content.settings, ...settings } } : content;
  if (provider === undefined || model === undefined) return changed;
  return { ...changed, provider, model, fallbacks: undefined };
}

/** The model that content speaks through. @throws {Refusal} where it is not there any more */
export function chosenFor({ providers }: HasProviders, content: Pick<Content, "provider" | "model">): Chosen {
  const connection = providers.bySlug(content.provider);
  if (!connection)
    refuse("misconfigured", "The provider that this app speaks through is not there any more.", {
      advice: "Choose another model in the Model station.",
    });
  const model = providers.model(connection.id, content.model);
  if (model) return { connection, model };
  const names = providers
    .models(connection.id)
    .filter(speaks)
    .map(({ name }) => name);
  refuse(
    "unknown-model",
    `${connection.name} has no model ${content.model}; there ${names.length === 1 ? "is" : "are"} ${names.join(", ") || "none"}.`,
  );
}

/** The models that a revision may go on to, as far as they are still there. */
export function fallbacksOf({ providers }: HasProviders, { fallbacks = [] }: Content): Chosen[] {
  return fallbacks.flatMap((each) => {
    const connection = providers.bySlug(each.provider);
    const model = connection && providers.model(connection.id, each.model);
    return model ? [{ connection, model }] : [];
  });
}
