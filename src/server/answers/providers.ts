import type { ShownCredential, ShownSecret } from "@/contract/credentials";
import type { Provider } from "@/contract/providers";
import { placesFor } from "@/core/provider/places";
import type { HasApps } from "../apps/app-store";
import type { StoredCredential, StoredSecret } from "../exchange/connection";
import type { HasProviders, StoredProvider } from "../providers/provider-store";
import { keyFrom } from "../security/keys";

/** A provider as the bench shows it; its secrets are only said to be there or not. */
export function providerAnswer({ apps, providers }: HasApps & HasProviders, provider: StoredProvider): Provider {
  const { id, name, address, profile, profileText, headers, limits, retries, records, atOnce, proxy, caFile, probe } =
    provider;
  const { values, signing } = provider;
  const extras = Object.entries(provider.extras).map(([extra, secret]) => [extra, shownSecret(secret)]);
  return {
    id,
    slug: provider.slug,
    name,
    address,
    profile: JSON.parse(profileText),
    shape: profile.source.shape,
    credential: shownCredential(provider.credential),
    headers,
    extras: Object.fromEntries(extras),
    values,
    signing,
    limits,
    retries,
    records,
    atOnce,
    proxy,
    hasProxyLogin: provider.proxyLogin !== null,
    caFile,
    models: providers.models(id).map((model) => ({
      ...model,
      places: placesFor(profile, model),
      ownSettings: [...profile.ownSettingsFor(model.name)],
      version: providers.versionOf(id, model.name),
    })),
    apps: apps.naming(provider.slug).length,
    probe,
  };
}

function shownCredential(credential: StoredCredential): ShownCredential {
  if (credential.kind === "none" || credential.kind === "command") return credential;
  if (credential.kind === "token")
    return { ...credential, id: shownSecret(credential.id), secret: shownSecret(credential.secret) };
  return { ...credential, secret: shownSecret(credential.secret) };
}

/** A secret as it is shown: never itself. */
export function shownSecret(secret: StoredSecret): ShownSecret {
  if ("sealed" in secret) return secret.isSample ? { sealed: true, isSample: true } : { sealed: true };
  return { variable: secret.variable, isSet: keyFrom(secret.variable) !== undefined };
}
