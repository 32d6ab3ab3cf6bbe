import { parse as splitWords } from "shell-quote";

/** A request as it was pasted. */
export interface PastedRequest {
  method: string;
  /** Absolute, or empty where only a body was pasted. */
  url: string;
  /** By names as written. */
  headers: [name: string, value: string][];
  body: string;
  /** `user:password`, where the command gives one. */
  user?: string;
}

/** What a pasted text is: a request, or none, and why not. */
export type ReadRequest = { kind: "request"; request: PastedRequest } | { kind: "none"; why: string };

/** Thrown inside of this file for a text that holds no request; the message says what was expected. */
class NotARequest extends Error {}

/**
 * Reads what a developer pastes: a `curl` command, a raw HTTP request, or the JSON body alone.
 * Variables stay as they are written, as `$NAME`. Whatever is typed or pasted, it does not throw.
 */
export function requestIn(pasted: string): ReadRequest {
  try {
    const request = withoutLogin(read(pasted.trim()));
    if (request.url !== "" && !URL.canParse(request.url)) return { kind: "none", why: `${request.url} is no address.` };
    return { kind: "request", request };
  } catch (error) {
    if (error instanceof NotARequest) return { kind: "none", why: error.message };
    return { kind: "none", why: `The command can't be read as a shell reads it: ${(error as Error).message}.` };
  }
}

/** A request whose address holds no name and password: they go as curl sends them. */
function withoutLogin(request: PastedRequest): PastedRequest {
  const [, start = "", login, rest = ""] = /^(https?:\/\/)([^/?#]*)@(.*)$/is.exec(request.url) ?? [];
  if (login === undefined) return request;
  return { ...request, url: start + rest, user: request.user ?? login };
}

function read(text: string): PastedRequest {
  if (text === "") throw new NotARequest("Nothing was pasted. Paste a curl command that works, or a request.");
  const command = /^(?:[$>#]\s*)?(?:[A-Za-z_]\w*=(?:'[^']*'|"[^"]*"|\S*)\s+)*(?=curl\b)/.exec(text);
  if (command) return curlIn(text.slice(command[0].length));
  if (/^[A-Z]+ \S+( HTTP\/[\d.]+)?\r?\n/.test(text)) return httpIn(text);
  if (text.startsWith("{"))
    return { method: "POST", url: "", headers: [["content-type", "application/json"]], body: text };
  throw new NotARequest("This is neither a curl command, nor an HTTP request, nor a JSON body.");
}

/** Options of curl that take a value and say nothing about the request. */
const skipped = new Set(
  "-o --output -m --max-time --connect-timeout -w --write-out --retry -c --cookie-jar --cacert -x --proxy --limit-rate -D --dump-header --retry-delay --resolve -E --cert --key --pass --proxy-pass -U --proxy-user --tlspassword -e --referer".split(
    " ",
  ),
);
const aliases: Record<string, string> = {
  "-X": "--request",
  "-H": "--header",
  "-d": "--data",
  "--data-raw": "--data",
  "--data-binary": "--data",
  "--data-ascii": "--data",
  "-u": "--user",
  "-A": "--user-agent",
  "-G": "--get",
  "-b": "--cookie",
};
const withValue = new Set([
  "--request",
  "--header",
  "--data",
  "--json",
  "--user",
  "--url",
  "--oauth2-bearer",
  "--user-agent",
  "--cookie",
  "--data-urlencode",
]);

function curlIn(command: string): PastedRequest {
  const words = wordsOf(command).slice(1);
  const request: PastedRequest = { method: "", url: "", headers: [], body: "" };
  const data: string[] = [];
  let isGet = false;
  for (let at = 0; at < words.length; at++) {
    const [option, joined] = optionIn(words[at] as string);
    const name = aliases[option] ?? option;
    if (!option.startsWith("-")) request.url ||= option;
    else if (skipped.has(option)) at += joined === undefined ? 1 : 0;
    else if (name === "--get") isGet = true;
    else if (withValue.has(name)) {
      const value = joined ?? words[++at];
      if (value === undefined) throw new NotARequest(`The command ends after ${option}, which needs a value.`);
      take(name, value, request, data);
    }
  }
  if (request.url === "") throw new NotARequest("The command holds no address.");
  if (!/^https?:\/\//i.test(request.url)) request.url = `http://${request.url}`;
  request.body = data.join("&");
  if (isGet && request.body) {
    request.url += `${request.url.includes("?") ? "&" : "?"}${request.body}`;
    request.body = "";
  }
  request.method ||= request.body === "" ? "GET" : "POST";
  return request;
}

function take(name: string, value: string, request: PastedRequest, data: string[]): void {
  if (name === "--request") request.method = value.toUpperCase();
  else if (name === "--url") request.url = value;
  else if (name === "--user") request.user = value;
  else if (name === "--oauth2-bearer") request.headers.push(["authorization", `Bearer ${value}`]);
  else if (name === "--cookie" && value.includes("=")) request.headers.push(["cookie", value]);
  else if (name === "--header") {
    const colon = value.indexOf(":");
    if (colon > 0) request.headers.push([value.slice(0, colon).trim(), value.slice(colon + 1).trim()]);
  } else if (name === "--data" || name === "--data-urlencode" || name === "--json") {
    if (value.startsWith("@"))
      throw new NotARequest(`The body stands in the file ${value.slice(1)}: paste it in place of ${value}.`);
    data.push(value);
    if (name === "--json") request.headers.push(["content-type", "application/json"]);
  }
}

/** An option with the value that is joined to it, as in `--url=x` or `-XPOST`. */
function optionIn(word: string): [option: string, joined?: string] {
  if (word.startsWith("--") && word.includes("="))
    return [word.slice(0, word.indexOf("=")), word.slice(word.indexOf("=") + 1)];
  if (/^-[XHduobUAE]./.test(word)) return [word.slice(0, 2), word.slice(2)];
  return [word];
}

/** The words of a shell command; variables stay as `$NAME`. */
function wordsOf(command: string): string[] {
  const words = splitWords(
    command.replace(/\\\r?\n/g, " ").replace(/\$'((?:[^'\\]|\\.)*)'/gs, (_all, quoted: string) => `'${plain(quoted)}'`),
    (name) => `$${name}`,
  );
  return words.map((word) => {
    if (typeof word === "string") return word;
    if ("op" in word && word.op === "glob") return (word as { pattern: string }).pattern;
    throw new NotARequest(`Paste one command alone: this goes on with "${"op" in word ? word.op : "a comment"}".`);
  });
}

/** What stands in `$'…'`, where the shell reads escapes. */
function plain(quoted: string): string {
  const escapes: Record<string, string> = { n: "\n", t: "\t", r: "\r" };
  return quoted.replace(/\\(.)/gs, (_all, sign: string) => escapes[sign] ?? sign).replaceAll("'", "'\\''");
}

function httpIn(text: string): PastedRequest {
  const [head = "", ...rest] = text.split(/\r?\n\r?\n/);
  const [first = "", ...lines] = head.split(/\r?\n/);
  const [method = "POST", path = "/"] = first.split(" ");
  const headers = lines.flatMap((line): [string, string][] => {
    const colon = line.indexOf(":");
    return colon > 0 ? [[line.slice(0, colon).trim(), line.slice(colon + 1).trim()]] : [];
  });
  const host = headers.find(([name]) => name.toLowerCase() === "host")?.[1];
  const kept = headers.filter(([name]) => !/^(?:host|content-length|connection)$/i.test(name));
  const url = /^https?:/.test(path)
    ? path
    : host === undefined
      ? ""
      : `${/:443$|^[^:]*[a-z]$/i.test(host) && !/^localhost/.test(host) ? "https" : "http"}://${host}${path}`;
  return { method, url, headers: kept, body: rest.join("\n\n").trim() };
}
