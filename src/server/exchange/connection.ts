import { filledAddress } from "@/core/provider/address";
import type { Limits } from "@/core/provider/limits";
import type { CompiledProfile } from "@/core/wire/profile";

/** A secret as it is stored: the name of its variable, or sealed; the sample of a stand-in as well. */
export type StoredSecret = { variable: string } | { sealed: string; isSample?: true };

/** How a provider knows its caller, as it is stored. */
export type StoredCredential =
  | { kind: "none" }
  | { kind: "key"; secret: StoredSecret }
  | { kind: "basic"; user: string; secret: StoredSecret }
  | {
      kind: "token";
      url: string;
      send: "form" | "json";
      body: Record<string, string>;
      id: StoredSecret;
      secret: StoredSecret;
      token: string;
      expires?: string;
    }
  | { kind: "command"; command: string; keepFor: number };

/** All that a call of a provider is made with, beside the wire profile as it was compiled. */
export interface ConnectionSettings {
  name: string;
  address: string;
  /** The profile's JSON. */
  profileText: string;
  credential: StoredCredential;
  headers: Record<string, string>;
  extras: Record<string, StoredSecret>;
  /** Values of its own for its address and its profile, by name; `$NAME` in them is read from the environment. */
  values: Record<string, string>;
  /** The command that signs each request; null for none. */
  signing: string | null;
  limits: Limits;
  /** How often a call is tried again. */
  retries: number;
  /** Whether what it answers to the bench is recorded. */
  records: boolean;
  /** Calls that it takes at once; null for any number. */
  atOnce: number | null;
  proxy: string | null;
  /** `name:password` for the proxy, sealed. */
  proxyLogin: string | null;
  caFile: string | null;
}

/** A provider as it is called. */
export interface Connection extends ConnectionSettings {
  id: string;
  /** Its lasting name: contents, replies and accounts know it by this, whatever it is called. */
  slug: string;
  profile: CompiledProfile;
}

/**
 * The URL of a path at a provider.
 * @param values those of its own that its address names; where one is missing, the name stays
 */
export function addressOf(
  { address }: Pick<Connection, "address">,
  { path }: { path: string },
  values: Readonly<Record<string, string>>,
): string {
  return (filledAddress(address, values) ?? address).replace(/\/+$/, "") + path;
}
