/**
 * Where a call came in. The server process says so in a header of its own, and takes away what a caller wrote
 * there: so what counts as this machine is decided by what is listened on, and by nothing that a caller says.
 */
export interface Door {
  /** The bench's port, or the one for pages and apps alone. */
  leads: "bench" | "talk";
  /** Whether only this machine can have called: loopback alone is listened on, and no proxy passed the call on. */
  isHere: boolean;
  /** The address of who called: as a named proxy tells it, else of the connection. */
  address: string;
  /** The origin that pages of this server have for whoever called. */
  origin: string;
}

/** The header that carries it. */
export const doorHeader = "finch-door";

/** What a proxy adds to what it passes on. */
const forwarded = ["forwarded", "x-forwarded-for", "x-forwarded-host", "x-forwarded-proto", "via"];

const loopback = /^(?:localhost|127(?:\.\d{1,3}){3}|::1|\[::1\])$/i;

/** Whether an address, or a host's name, is one of this machine alone. */
export function isLoopback(host: string): boolean {
  return loopback.test(host);
}

/** What the server process knows of a call. */
interface Connection {
  leads: Door["leads"];
  /** What is listened on. */
  listens: string;
  /** The other end of the connection. */
  peer: string;
  /** Proxies whose headers are believed, by their addresses. */
  proxies: readonly string[];
}

/** The door that a call came in by. @param header gives a header by its name in lower case */
export function doorFor(
  { leads, listens, peer, proxies }: Connection,
  header: (name: string) => string | undefined,
): Door {
  const address = peer.replace(/^::ffff:/, "");
  const host = header("host") ?? "";
  const wasForwarded = forwarded.some((name) => header(name) !== undefined);
  // a call from where a proxy runs that no proxy passed on is one of its own
  if (!proxies.includes(address) || !wasForwarded)
    return { leads, isHere: isLoopback(listens) && !wasForwarded, address, origin: `http://${host}` };
  // each proxy adds what it was asked for behind what came: what the named one says stands last
  const last = (name: string) => header(name)?.split(",").at(-1)?.trim();
  const hops = (header("x-forwarded-for") ?? "").split(",").map((hop) => hop.trim());
  const client = hops.reverse().find((hop) => hop !== "" && !proxies.includes(hop));
  const scheme = last("x-forwarded-proto") === "https" ? "https" : "http";
  return {
    leads,
    isHere: false,
    address: client ?? address,
    origin: `${scheme}://${last("x-forwarded-host") ?? host}`,
  };
}

/**
 * Scheme, host and port of the pages and endpoints of apps, as whoever called would reach them: a port of their
 * own, where there is one.
 */
export function talkBase(request: Request): string {
  const { origin } = doorOf(request.headers);
  const port = process.env.FINCH_TALK_PORT;
  return port ? `${new URL(origin).protocol}//${new URL(origin).hostname}:${port}` : origin;
}

/** The door of a request. Where nobody wrote one, as in development, loopback alone is listened on. */
export function doorOf(headers: Headers): Door {
  const written = headers.get(doorHeader);
  if (written !== null) return JSON.parse(written) as Door;
  return { leads: "bench", isHere: true, address: "127.0.0.1", origin: `http://${headers.get("host") ?? ""}` };
}
