import type { ProblemKind } from "@/core/problem/problem";
import { type ProviderPart, providerParts } from "@/core/provider/probe";

/** How one is led to a part of a provider. */
export const partWords: Record<ProviderPart, string> = {
  address: "look at its address",
  key: "look at its key",
  profile: "look at its profile",
  call: "look at a call",
  models: "look at its models",
};

/** Where a failure of a provider is put right; none for what passes by itself, or is none of its own. */
export const partsOfKinds: Partial<Record<ProblemKind, ProviderPart>> = {
  unreachable: "address",
  "timed-out": "address",
  unauthorised: "key",
  "not-allowed": "key",
  misconfigured: "key",
  "unknown-model": "models",
  reported: "profile",
  "bad-reply": "profile",
  empty: "call",
};

/** Where one comes from, and what is to be seen of which provider. */
export interface ProviderPlace {
  /** Its lasting name. */
  provider: string;
  part: ProviderPart;
  /** The app that one came from, and the conversation; the way back. */
  app?: string;
  conversation?: string;
}

/** The address of a part of a provider. */
export function providerAddress({ provider, part, app, conversation }: ProviderPlace): string {
  const named = { open: provider, part, app, conversation };
  const given = Object.entries(named).filter((entry): entry is [string, string] => entry[1] !== undefined);
  return `/providers?${new URLSearchParams(given)}`;
}

/** The place that an address names; undefined where it names none. */
export function providerPlaceIn(address: URLSearchParams): ProviderPlace | undefined {
  const provider = address.get("open");
  if (provider === null) return undefined;
  const part = providerParts.find((each) => each === address.get("part")) ?? "call";
  return {
    provider,
    part,
    app: address.get("app") ?? undefined,
    conversation: address.get("conversation") ?? undefined,
  };
}
