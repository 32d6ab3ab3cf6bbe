import { readFileSync, statSync } from "node:fs";
import { rootCertificates } from "node:tls";
import { Agent, buildConnector, type Dispatcher, EnvHttpProxyAgent, ProxyAgent } from "undici";

/** How a request gets there. */
export interface Way {
  /** The address of a proxy; without one the proxy variables of the environment are heeded. */
  proxy?: string | null;
  /** `name:password` for that proxy. */
  proxyLogin?: string;
  /** A file of certificates to trust beside the usual ones. */
  caFile?: string | null;
}

/** Connections that go one way, with the state of the certificate file that they trust. */
interface Known {
  stamp: string;
  dispatcher: Dispatcher;
}

const known = new Map<string, Known>();
/** The longest that a connection may take; the limit of a provider is shorter. */
const longestConnect = 600_000;

/**
 * What sends requests that go one way: it keeps connections open and shares them. A certificate file that was replaced
 * is read again.
 * @param protocol of what is called, with its colon: the environment names a proxy for each
 * @throws where the file can't be read, or the proxy is no address
 */
export function dispatcherFor(way: Way, protocol: string): Dispatcher {
  const { proxy, proxyLogin, caFile } = way;
  const name = JSON.stringify([protocol, proxy ?? "", proxyLogin ?? "", caFile ?? ""]);
  const before = known.get(name);
  const stamp = caFile ? stampOf(caFile) : "";
  if (before?.stamp === stamp) return before.dispatcher;
  const dispatcher = make(way, protocol);
  known.set(name, { stamp, dispatcher });
  // calls that are under way come to their end
  void before?.dispatcher.close();
  return dispatcher;
}

function stampOf(file: string): string {
  const { ino, size, mtimeMs } = statSync(file);
  return `${ino} ${size} ${mtimeMs}`;
}

function make({ proxy, proxyLogin, caFile }: Way, protocol: string): Dispatcher {
  const trust = caFile ? { ca: [...rootCertificates, readFileSync(caFile, "utf8")] } : {};
  const tls = { ...trust, timeout: longestConnect };
  // plain http goes through a proxy as it is, and only what is encrypted through a tunnel
  const options = {
    connect: connectorWith(tls),
    requestTls: tls,
    proxyTls: { timeout: longestConnect },
    proxyTunnel: false,
  };
  if (proxy) return new ProxyAgent({ ...options, uri: withLogin(proxy, proxyLogin) });
  const named = proxyInEnvironment(protocol);
  return named ? new EnvHttpProxyAgent({ ...options, httpProxy: named, httpsProxy: named }) : new Agent(options);
}

/**
 * Makes connections. An answer without a length ends with its connection, and undici takes one that was reset for such
 * an end; it is none (RFC 9112, 8), so it is told under another code.
 */
function connectorWith(tls: buildConnector.BuildOptions): buildConnector.connector {
  const connect = buildConnector(tls);
  return (options, callback) =>
    connect(options, (...made) => {
      made[1]?.prependListener("error", (error: NodeJS.ErrnoException) => {
        if (error.code === "ECONNRESET") error.code = "RESET";
      });
      callback(...made);
    });
}

/** The proxy that the environment names for a protocol; NO_PROXY is heeded by whoever uses it. */
function proxyInEnvironment(protocol: string): string | undefined {
  const variable = `${protocol.slice(0, -1)}_proxy`;
  const names = [variable, variable.toUpperCase(), "all_proxy", "ALL_PROXY"];
  return names.map((name) => process.env[name]).find((value) => value);
}

function withLogin(proxy: string, login: string | undefined): string {
  if (!login) return proxy;
  const url = new URL(proxy);
  const [name = "", ...password] = login.split(":");
  url.username = encodeURIComponent(name);
  url.password = encodeURIComponent(password.join(":"));
  return url.href;
}
