import type { ConnectionSettings } from "../exchange/connection";
import type { HasSeal, Seal } from "../security/seal";
import type { HasProviders, StoredProvider } from "./provider-store";

/** The name under which a name and a password that stood in a provider's address are kept. */
const addressLogin = "address-login";

/**
 * Settings without the names and passwords that stand in the addresses of a provider and of its proxy:
 * they are sealed, and go along as they did before (RFC 7617), unless another header says who calls.
 */
export function withoutLogins<S extends ConnectionSettings>(seal: Seal, settings: S): S {
  const own = parted(settings.address);
  const proxy = settings.proxy === null ? undefined : parted(settings.proxy);
  const changed = { ...settings };
  if (own) {
    changed.address = own.address;
    if (!Object.keys(settings.headers).some((name) => name.toLowerCase() === "authorization")) {
      changed.headers = { ...settings.headers, authorization: `Basic <extra:${addressLogin}>` };
      const sealed = seal.close(Buffer.from(own.login).toString("base64"));
      changed.extras = { ...settings.extras, [addressLogin]: { sealed } };
    }
  }
  if (proxy) {
    changed.proxy = proxy.address;
    changed.proxyLogin = seal.close(proxy.login);
  }
  return changed;
}

/** Does the same for the providers of a data folder in which they still stand in clear. */
export function takeOutLogins({ providers, seal }: HasProviders & HasSeal): void {
  for (const provider of providers.all()) {
    const without: StoredProvider = withoutLogins(seal, provider);
    if (without.address !== provider.address || without.proxy !== provider.proxy)
      providers.change(provider.id, without);
  }
}

/** An address and the `name:password` that stood in it; undefined where none did. */
function parted(written: string): { address: string; login: string } | undefined {
  const [, scheme = "", login, rest = ""] = /^(https?:\/\/)([^/?#]*)@(.*)$/i.exec(written) ?? [];
  if (login === undefined) return undefined;
  return { address: scheme + rest, login: login.split(":").map(plain).join(":") };
}

function plain(escaped: string): string {
  try {
    return decodeURIComponent(escaped);
  } catch {
    return escaped;
  }
}
