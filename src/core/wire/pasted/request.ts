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

/** What may stand before a command, each to its end: a comment, a variable that is set, the sign of a prompt. */
const before = [
  /#[^\n]*\n/y,
  /(?:export|set)\s+[A-Za-z_]\w*=[^\n]*\n/iy,
  /[A-Za-z_]\w*=(?:'[^']*'|"[^"]*"|[^\s'"]*)(?:;|(?=\s))/y,
  /\$env:[^\n]*\n/iy,
  /[$>%#❯➜](?=\s)/y,
  /[\w.-]{1,80}@[\w.-]{1,80}[^$%#\n]{0,80}[$%#](?=\s)/y,
  /PS[^>\n]{0,200}>/y,
  /[A-Z]:\\[^>\n]{0,200}>/y,
];
const commandWord = /(?:curl|wget)(?:\.exe)?(?=\s)|Invoke-(?:RestMethod|WebRequest)\b/iy;

/** Where a command begins in a text; undefined where there is none. Each piece before it is passed over once. */
function commandAt(text: string): number | undefined {
  for (let at = 0; ; ) {
    at += /^\s*/.exec(text.slice(at, at + 10_000))?.[0].length ?? 0;
    commandWord.lastIndex = at;
    if (commandWord.test(text)) return at;
    const passed = before.find((piece) => {
      piece.lastIndex = at;
      return piece.test(text) && piece.lastIndex > at;
    });
    if (!passed) return undefined;
    at = passed.lastIndex;
  }
}

function read(text: string): PastedRequest {
  if (text === "") throw new NotARequest("Nothing was pasted. Paste a curl command that works, or a request.");
  const begins = commandAt(`${text} `);
  if (begins !== undefined) {
    const plain = withPlainQuotes(text.slice(begins));
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
