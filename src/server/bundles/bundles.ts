import {
  type Bundle,
  type BundledProvider,
  type NamedSecret,
  providersIn,
  readBundle,
  writeBundle,
} from "@/core/bundle/bundle";
import { compileProfile, ProfileError } from "@/core/wire/profile";
import { sound } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasScripts } from "../checks/script-store";
import { scriptsOf } from "../checks/scripts";
import type { HasDatabase } from "../database/database";
import type { StoredCredential, StoredSecret } from "../exchange/connection";
import { newId } from "../ground/id";
import { refuse } from "../ground/refusal";
import type { HasProviders, StoredProvider } from "../providers/provider-store";
import { withDocuments } from "../sources/sources";
import { addDocuments, bundledDocuments, type DocumentsNeeds } from "./documents";

/** What of the process is used here. */
export type BundleNeeds = DocumentsNeeds & HasApps & HasProviders & HasScripts & HasDatabase;

/** An app as one file, without a secret: what is sealed here stands in it by the name of a variable. */
export function bundleOf(home: BundleNeeds, app: StoredApp): string {
  // documents go by their short names: an app that is made of it has others of their ids
  const shorts = new Map(home.sources.ofApp(app.id).map(({ id, short }) => [id, short]));
  const live = home.apps.revision(app.id, app.liveRevision)?.content ?? app.draft;
  const { scripts } = scriptsOf(home, app);
  const slugs = [...new Set([...providersIn(live), ...providersIn(app.draft)])];
  return writeBundle({
    name: app.name,
    live: withDocuments(live, shorts),
    draft: withDocuments(app.draft, shorts),
    look: app.look,
    scripts: scripts.map(({ name, text }) => ({ name, text })),
    documents: bundledDocuments(home, [live, app.draft]),
    providers: slugs.flatMap((slug) => {
      const provider = home.providers.bySlug(slug);
      return provider ? [bundled(home, provider)] : [];
    }),
  });
}

function bundled({ providers }: HasProviders, provider: StoredProvider): BundledProvider {
  const { id, slug, name, address, profileText, credential, headers, extras, values, signing, limits } = provider;
  const named = (secret: StoredSecret, what: string): NamedSecret =>
    "variable" in secret ? { variable: secret.variable } : { variable: variableFor(slug, what) };
  return {
    slug,
    name,
    address,
    profile: JSON.parse(profileText) as BundledProvider["profile"],
    credential: namedCredential(credential, named),
    headers: Object.fromEntries(
      Object.entries(headers).map(([header, value]) => [header, withoutSecret(slug, header, value)]),
    ),
    extras: Object.fromEntries(Object.entries(extras).map(([extra, secret]) => [extra, named(secret, extra)])),
    values,
    signing,
    limits,
    retries: provider.retries,
    atOnce: provider.atOnce,
    models: providers.models(id).map(({ name, window, isWindowGuessed, price, isOn, can }) => ({
      name,
      window,
      ...(isWindowGuessed ? { isWindowGuessed } : {}),
      price,
      isOn,
      can,
    })),
  };
}

function namedCredential(
  credential: StoredCredential,
  named: (secret: StoredSecret, what: string) => NamedSecret,
): BundledProvider["credential"] {
  switch (credential.kind) {
    case "none":
    case "command":
      return credential;
    case "token":
      return { ...credential, id: named(credential.id, "id"), secret: named(credential.secret, "secret") };
    default:
      return { ...credential, secret: named(credential.secret, "key") };
  }
}

/** The variable that holds a secret which is sealed here. */
function variableFor(slug: string, what: string): string {
  return `${slug}_${what}`.toUpperCase().replace(/[^A-Z0-9]+/g, "_");
}

/** A header without what looks like a secret: that is filled from a variable. */
function withoutSecret(slug: string, header: string, value: string): string {
  const isSecret = /authorization|cookie|key|token|secret|password/i.test(header);
  return isSecret && !/[$<]/.test(value) ? `$${variableFor(slug, header)}` : value;
}

/**
 * Makes an app of a bundle; all of it or nothing. A provider that is here under the same lasting name is used as it is,
 * and others are wired.
 * @param as the name that the app gets instead of its own
 * @throws {Refusal} `bad-request` where it is none, or a newer one
 */
export function appFromBundle(home: BundleNeeds, text: string, as: string | undefined): StoredApp {
  const read = readBundle(text);
  if (read.kind === "wrong") refuse("bad-request", `This file is no app: ${read.why}.`, { advice: read.advice });
  const { bundle } = read;
  return home.database
    .transaction(() => {
      for (const provider of bundle.providers) wire(home, provider);
      needProviders(home, bundle);
      const now = Date.now();
      const ids = new Map(bundle.documents.map(({ short }) => [short, newId("src")]));
      const app = home.apps.make(as ?? bundle.name, sound(withDocuments(bundle.live, ids)), now);
      home.apps.editDraft(app.id, app.draftHash, sound(withDocuments(bundle.draft, ids)), now);
      addDocuments(home, app.id, bundle.documents, ids);
      const edited = home.apps.byId(app.id) ?? app;
      home.apps.setLook(edited, bundle.look);
      for (const { name, text: script } of bundle.scripts) home.scripts.put(app.id, name, script, now);
      return home.apps.byId(app.id) ?? edited;
    })
    .immediate();
}

function needProviders({ providers }: HasProviders, { live, draft }: Bundle): void {
  const missing = [...providersIn(live), ...providersIn(draft)].find((slug) => !providers.bySlug(slug));
  if (missing !== undefined)
    refuse("bad-request", `The file has no provider ${missing}, which its app speaks through.`, {
      advice: "Write it anew where that provider is wired: finch export.",
    });
}

function wire({ providers }: HasProviders, bundled: BundledProvider): void {
  const { slug, profile, models, ...settings } = bundled;
  if (providers.bySlug(slug)) return;
  if (providers.isTaken(slug))
    refuse("conflict", `A provider ${slug} was deleted here, and its name is never given out again.`, {
      advice: "Import the file into another data folder.",
    });
  if (providers.byName(settings.name))
    refuse("conflict", `There is another provider ${settings.name} already.`, { advice: "Rename that one first." });
  const profileText = JSON.stringify(profile, null, 2);
  try {
    compileProfile(profile);
  } catch (error) {
    if (!(error instanceof ProfileError)) throw error;
    refuse("bad-request", `The wire profile of ${settings.name} can't be read: ${error.message}.`);
  }
  const id = providers.add(
    { ...settings, records: false, profileText, proxy: null, proxyLogin: null, caFile: null },
    Date.now(),
    slug,
  );
  providers.putModels(id, models);
}
