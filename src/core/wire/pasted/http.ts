import type { PastedRequest } from "./pasted";

/** Headers that HTTP sets by itself. */
const own = /^(?:host|content-length|connection|transfer-encoding|:.*)$/i;

/** Reads a request as it goes over the wire (RFC 9112), or as the bench shows it. */
export function httpRequest(text: string): PastedRequest {
  const [, head = text, body = ""] = /^([\s\S]*?)\r?\n\r?\n([\s\S]*)$/.exec(text) ?? [];
  const [first = "", ...lines] = head.split(/\r?\n/);
  const [method = "POST", path = "/"] = first.split(" ");
  const headers = headersIn(lines);
  const host = headers.find(([name]) => name.toLowerCase() === "host")?.[1];
  const url = /^https?:/.test(path) ? path : host === undefined ? "" : `${schemeFor(host)}://${host}${path}`;
  return { method, url, headers: headers.filter(([name]) => !own.test(name)), body: body.trim() };
}

/** Lines of `name: value`; those that are none are passed over. */
export function headersIn(lines: readonly string[]): [name: string, value: string][] {
  return lines.flatMap((line): [string, string][] => {
    const colon = line.indexOf(":", 1);
    return colon > 0 ? [[line.slice(0, colon).trim(), line.slice(colon + 1).trim()]] : [];
  });
}

/** A host of a name is called by https, one of this machine or of a port is not. */
function schemeFor(host: string): "http" | "https" {
  return /:443$|^[^:]*[a-z]$/i.test(host) && !/^localhost/.test(host) ? "https" : "http";
}
