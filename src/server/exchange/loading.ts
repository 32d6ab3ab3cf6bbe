import { isIP } from "node:net";
import { LRUCache } from "lru-cache";
import type { Connection } from "./connection";
import type { CallLimits } from "./exchange";

/** Milliseconds after which a server that runs models by itself may have let one go. */
const mayBeGone = 4 * 60_000;

/** When each model of a local server was last heard, by provider and name. */
const heard = new LRUCache<string, number>({ max: 1_000 });

const keyOf = ({ id }: Pick<Connection, "id">, model: string) => `${id} ${model}`;

/** Takes note that a model answers. */
export function hearModel(connection: Pick<Connection, "id">, model: string): void {
  heard.set(keyOf(connection, model), performance.now());
}

/**
 * The limits of a call. Where its server may have to load the model first, the first event has the limit of loading, and the
 * whole as much more.
 */
export function limitsOf(connection: Pick<Connection, "id" | "limits">, model: string): CallLimits {
  const { limits } = connection;
  const at = heard.get(keyOf(connection, model));
  const isGone = at === undefined || performance.now() - at > mayBeGone;
  if (limits.loading === undefined || !isGone) return limits;
  return { ...limits, all: limits.all + limits.loading, isLoading: true };
}

/** Whether an address is of this machine or of a private network (RFC 1918, RFC 4193, RFC 6762). */
export function isLocal(address: string): boolean {
  const host = URL.canParse(address) ? new URL(address).hostname.replace(/^\[|\]$/g, "") : "";
  if (isIP(host) === 4) return /^(?:127|10)\.|^192\.168\.|^172\.(?:1[6-9]|2\d|3[01])\./.test(host);
  if (isIP(host) === 6) return host === "::1" || /^f[cd]/i.test(host);
  return host === "localhost" || /\.(?:localhost|local)$/.test(host);
}
