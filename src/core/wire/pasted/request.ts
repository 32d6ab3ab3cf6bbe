import { hiddenKey } from "../encode";
import { parseJson } from "../json";
import { invokeRequest, wgetRequest } from "./commands";
import { curlRequest } from "./curl";
import { NoValue } from "./curl-options";
import { harRequest } from "./har";
import { httpRequest } from "./http";
import { NotARequest, type PastedRequest, variableIn } from "./pasted";
import { withoutWrapping, withPlainQuotes } from "./plain";
import { isProgram, programRequest } from "./program";
import { NotACommand } from "./shell";

/** What a pasted text is: a request, or none, and why not. */
export type ReadRequest = { kind: "request"; request: PastedRequest } | { kind: "none"; why: string };

/**
 * Reads what a developer pastes: a command of any shell, a raw HTTP request, an entry of a HAR file, a call in a program,
 * or the JSON body alone. Variables stay as they are written, as `$NAME`. Whatever is typed or pasted, it does
 * not throw.
 */
export function requestIn(pasted: string): ReadRequest {
  try {
    // what the bench itself shows of a request has a mark in the place of the key
    const text = withoutWrapping(pasted).replaceAll(hiddenKey, "$KEY").trim();
    const request = withFilled(withoutLogin(read(text)));
    const { rest } = variableIn(request.url) ?? {};
    if (request.url !== "" && !URL.canParse(rest === undefined ? request.url : `http://address${rest}`))
      return { kind: "none", why: `${request.url} is no address.` };
    return { kind: "request", request };
  } catch (error) {
    if (error instanceof NotARequest || error instanceof NotACommand || error instanceof NoValue)
      return { kind: "none", why: error.message };
    throw error;
  }
}

/** What stands before a command: a prompt's sign, comments, and variables that are set. */
const before =
  /^(?:\s*(?:#[^\n]*\n|(?:export|set)\s+[A-Za-z_]\w*=[^\n]*\n|[A-Za-z_]\w*=(?:'[^']*'|"[^"]*"|[^\s'"]*)(?:\s*;?\s+)|\$env:[^\n]*\n|[$>%#❯➜]\s+|[\w.-]+@[\w.-]+[^$%#\n]{0,80}[$%#]\s+|PS[^>\n]*>\s*|[A-Z]:\\[^>\n]*>))*\s*(?=(?:curl|wget)(?:\.exe)?\s|Invoke-(?:RestMethod|WebRequest)\b)/i;

function read(text: string): PastedRequest {
  if (text === "") throw new NotARequest("Nothing was pasted. Paste a curl command that works, or a request.");
  const command = before.exec(`${text} `);
  if (command) {
    const plain = withPlainQuotes(text.slice(command[0].length));
    if (/^invoke/i.test(plain)) return invokeRequest(plain);
    return /^wget/i.test(plain) ? wgetRequest(plain) : curlRequest(plain);
  }
  if (/(?:^|\n|\|\s*|=\s*|\()\s*Invoke-(?:RestMethod|WebRequest)\b/i.test(text)) return invokeRequest(text);
  if (/^[A-Z]+ \S+( HTTP\/[\d.]+)?\r?\n/.test(text)) return httpRequest(text);
  if (isProgram(text)) return programRequest(text);
  if (text.startsWith("{")) {
    const request = harRequest(parseJson(text));
    return request ?? { method: "POST", url: "", headers: [["content-type", "application/json"]], body: text };
  }
  throw new NotARequest(
    "This is neither a curl command, nor an HTTP request, nor an entry of a HAR file, nor a call of fetch or another client in a program, nor a JSON body.",
  );
}

/** A request in which `{{name}}`, as files of requests have it, is a variable like any other. */
function withFilled(request: PastedRequest): PastedRequest {
  const filled = (text: string) =>
    text.replace(
      /(?:\{\{|%7B%7B)\s*\$?([A-Za-z][\w.-]{0,60}?)\s*(?:\}\}|%7D%7D)/g,
      (_all, name: string) => `$${name.replace(/[^A-Za-z0-9]+/g, "_").toUpperCase()}`,
    );
  return {
    ...request,
    url: filled(request.url),
    headers: request.headers.map(([name, value]) => [name, filled(value)]),
    ...(request.user === undefined ? {} : { user: filled(request.user) }),
  };
}

/** A request whose address holds no name and password: they go as curl sends them. */
function withoutLogin(request: PastedRequest): PastedRequest {
  const [, start = "", login, rest = ""] = /^(https?:\/\/)([^/?#]*)@(.*)$/is.exec(request.url) ?? [];
  if (login === undefined) return request;
  return { ...request, url: start + rest, user: request.user ?? login };
}
