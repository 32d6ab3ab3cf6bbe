import type { Credential, Secret } from "@/contract/credentials";
import type { ChangeProvider, WireProvider } from "@/contract/providers";
import { usualLimits, usualLoading } from "@/core/provider/limits";
import { compilePath, PathError } from "@/core/wire/path";
import { compileProfile, ProfileError } from "@/core/wire/profile";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import type { HasDatabase } from "../database/database";
import type { ConnectionSettings, StoredCredential, StoredSecret } from "../exchange/connection";
import type { HasCredentials } from "../exchange/credentials";
import { isLocal } from "../exchange/loading";
import { refuse } from "../ground/refusal";
import { keyFrom } from "../security/keys";
import type { HasSeal } from "../security/seal";
import { withoutLogins } from "./logins";
import type { HasProviders, ProviderStore, StoredProvider } from "./provider-store";

/** What of the process is used here. */
export type WiringNeeds = HasDatabase & HasProviders & HasSeal & HasCredentials;

/** How often a call is tried again until something else is set. */
const usualRetries = 2;

/** A provider by its id. @throws {Refusal} `not-found` */
export function providerAt({ providers }: HasProviders, id: string): StoredProvider {
  return providers.byId(id) ?? refuse("not-found", `There is no provider ${id}.`);
}

/**
 * Wires a provider.
 * @param samples keys that a stand-in gives along, by the variables that would hold them: what no variable holds is one
 *   of these, sealed
 * @throws {Refusal} where its name is taken or its profile is wrong
 */
export function wireProvider(
  boot: HasDatabase & HasProviders & HasSeal,
  wired: WireProvider,
  samples: Readonly<Record<string, string>> = {},
): StoredProvider {
  const { name, address, profile, credential, headers = {}, extras = {}, values = {}, signing = null, models } = wired;
  const { cases = [] } = wired;
  needName(boot, name);
  const settings: ConnectionSettings = {
    name,
    address,
    profileText: profileTextOf(profile),
    credential: withSamples(boot, stored(boot, credential), samples),
    headers,
    extras: storedExtras(boot, extras),
    values,
    signing,
    limits: isLocal(address) ? { ...usualLimits, loading: usualLoading } : usualLimits,
    retries: usualRetries,
    records: false,
    atOnce: null,
    proxy: null,
    proxyLogin: null,
    caFile: null,
  };
  return added(boot, withoutLogins(boot.seal, settings), models, cases);
}

function withSamples(
  { seal }: HasSeal,
  credential: StoredCredential,
  samples: Readonly<Record<string, string>>,
): StoredCredential {
  const sampleOf = (secret: StoredSecret): StoredSecret => {
    const sample = "variable" in secret && keyFrom(secret.variable) === undefined && samples[secret.variable];
    return sample ? { sealed: seal.close(sample), isSample: true } : secret;
  };
  switch (credential.kind) {
    case "none":
    case "command":
      return credential;
    case "token":
      return { ...credential, id: sampleOf(credential.id), secret: sampleOf(credential.secret) };
    default:
      return { ...credential, secret: sampleOf(credential.secret) };
  }
}

/** A copy of a provider under another name; what was sealed goes along. */
export function copyProvider(boot: HasDatabase & HasProviders, id: string, name: string): StoredProvider {
  const { id: _id, slug: _slug, profile: _profile, probe: _probe, ...settings } = providerAt(boot, id);
  needName(boot, name);
  return added(boot, { ...settings, name }, boot.providers.models(id), boot.providers.cases(id));
}

function added(
  { database, providers }: HasDatabase & HasProviders,
  settings: ConnectionSettings,
  models: WireProvider["models"],
  cases: readonly string[],
): StoredProvider {
  return database
    .transaction(() => {
      const id = providers.add(settings, Date.now());
      needCurrency(providers, models, id);
      providers.putModels(id, models);
      providers.setCases(id, cases);
      return providers.byId(id) as StoredProvider;
    })
    .immediate();
}

function needName({ providers }: HasProviders, name: string, own?: string): void {
  const other = providers.byName(name);
  if (other && other.id !== own)
    refuse("conflict", `There is a provider ${other.name} already.`, { advice: "Give this one another name." });
}

/** Refuses prices in another currency than those there are: what is spent could not be added up. */
function needCurrency(providers: ProviderStore, models: WireProvider["models"], own: string): void {
  const others = providers.all().filter(({ id }) => id !== own);
  const known = others.flatMap(({ id }) => providers.models(id))[0]?.price.currency ?? models[0]?.price.currency;
  const other = models.find(({ price }) => price.currency !== known);
  if (other)
    refuse("conflict", `${other.name} has its price in ${other.price.currency}, and the others theirs in ${known}.`, {
      advice: `Give it in ${known}: the bench has one currency.`,
    });
}

/** Changes what is given of a provider. @throws {Refusal} */
export function changeProvider(boot: WiringNeeds, id: string, change: ChangeProvider): StoredProvider {
  const before = providerAt(boot, id);
  const { profile, credential, extras, models, ...plain } = change;
  if (plain.name !== undefined) needName(boot, plain.name, id);
  const given = Object.fromEntries(Object.entries(plain).filter(([, value]) => value !== undefined));
  const settings: ConnectionSettings = {
    ...before,
    ...given,
    ...(extras ? { extras: storedExtras(boot, extras, before.extras) } : {}),
    // a name and a password go with the proxy that they were given for
    ...(plain.proxy !== undefined && plain.proxy !== before.proxy ? { proxyLogin: null } : {}),
    ...(profile ? { profileText: profileTextOf(profile) } : {}),
    ...(credential ? { credential: stored(boot, credential, before.credential) } : {}),
  };
  boot.database
    .transaction(() => {
      boot.providers.change(id, withoutLogins(boot.seal, settings));
      if (!models) return;
      needCurrency(boot.providers, models, id);
      boot.providers.setModels(id, models);
    })
    .immediate();
  if (credential || plain.address !== undefined) boot.credentials.forget(before);
  return providerAt(boot, id);
}

function profileTextOf(profile: WireProvider["profile"]): string {
  const names = Object.keys(shippedProfiles).join(", ");
  const source = typeof profile === "string" ? shippedProfiles[profile] : profile;
  if (source === undefined) refuse("bad-request", `There is no wire profile ${String(profile)}; there are ${names}.`);
  try {
    compileProfile(source);
  } catch (error) {
    if (!(error instanceof ProfileError)) throw error;
    refuse("bad-request", `The wire profile is wrong at ${error.message}`, { advice: "Put it right at that place." });
  }
  return JSON.stringify(source);
}

/** The further secrets of a provider as they are stored. */
function storedExtras(
  boot: HasSeal,
  extras: Record<string, Secret>,
  before: Record<string, StoredSecret> = {},
): Record<string, StoredSecret> {
  return Object.fromEntries(
    Object.entries(extras).map(([name, secret]) => [
      name,
      storedSecret(boot, secret, before[name], `The extra ${name}`),
    ]),
  );
}

function storedSecret(boot: HasSeal, secret: Secret, before: unknown, what: string): StoredSecret {
  if ("variable" in secret) return secret;
  if ("value" in secret) return { sealed: boot.seal.close(secret.value) };
  if (typeof before === "object" && before !== null && "sealed" in before) return before as StoredSecret;
  return refuse("bad-request", `${what} is said to be sealed already, and none is.`, { advice: "Type it once." });
}

/** A credential as it is stored: what was typed is sealed, and what was sealed before stays so. */
function stored(boot: HasSeal, credential: Credential, before?: StoredCredential): StoredCredential {
  const secretOf = (secret: Secret, name: "id" | "secret"): StoredSecret =>
    storedSecret(
      boot,
      secret,
      before && name in before ? (before as Record<string, unknown>)[name] : undefined,
      "The credential",
    );
  if (credential.kind === "none" || credential.kind === "command") return credential;
  if (credential.kind !== "token") return { ...credential, secret: secretOf(credential.secret, "secret") };
  for (const path of [credential.token, credential.expires])
    try {
      if (path !== undefined) compilePath(path);
    } catch (error) {
      if (error instanceof PathError) refuse("bad-request", `The path of the token is wrong: ${error.message}`);
      throw error;
    }
  return { ...credential, id: secretOf(credential.id, "id"), secret: secretOf(credential.secret, "secret") };
}
