import { hiddenKey } from "../encode";
import { parseJson } from "../json";
import { curlRequest } from "./curl";
import { NoValue } from "./curl-options";
import { fetchRequest } from "./fetch";
import { harRequest } from "./har";
import { httpRequest } from "./http";
import { NotARequest, type PastedRequest } from "./pasted";
import { NotACommand } from "./shell";

/** What a pasted text is: a request, or none, and why not. */
export type ReadRequest = { kind: "request"; request: PastedRequest } | { kind: "none"; why: string };

/**
 * Reads what a developer pastes: a `curl` command of any shell, a raw HTTP request, an entry of a HAR file, a call of
 * `fetch`, or the JSON body alone. Variables stay as they are written, as `$NAME`. Whatever is typed or pasted, it does
 * not throw.
 */
export function requestIn(pasted: string): ReadRequest {
  try {
    // what the bench itself shows of a request has a mark in the place of the key
    const request = withoutLogin(read(pasted.replaceAll(hiddenKey, "$KEY").trim()));
    if (request.url !== "" && !URL.canParse(request.url)) return { kind: "none", why: `${request.url} is no address.` };
    return { kind: "request", request };
  } catch (error) {
    if (error instanceof NotARequest || error instanceof NotACommand || error instanceof NoValue)
      return { kind: "none", why: error.message };
    throw error;
  }
}

/** What stands before a command: a prompt's sign, comments, and variables that are set. */
const before =
  /^(?:\s*(?:#[^\n]*\n|(?:export|set)\s+[A-Za-z_]\w*=[^\n]*\n|[A-Za-z_]\w*=(?:'[^']*'|"[^"]*"|[^\s'"]*)(?:\s*;?\s+)|\$env:[^\n]*\n|[$>%#]\s+|PS[^>\n]*>\s*|[A-Z]:\\[^>\n]*>))*\s*(?=curl(?:\.exe)?\s)/;

function read(text: string): PastedRequest {
  if (text === "") throw new NotARequest("Nothing was pasted. Paste a curl command that works, or a request.");
  const command = before.exec(`${text} `);
  if (command) return curlRequest(text.slice(command[0].length));
  if (/^[A-Z]+ \S+( HTTP\/[\d.]+)?\r?\n/.test(text)) return httpRequest(text);
  if (/^(?:const|let|var|await|return|\(|window\.|\w+\s*=|fetch)[\s\S]{0,200}?\bfetch\s*\(|^fetch\s*\(/.test(text))
    return fetchRequest(text);
  if (text.startsWith("{")) {
    const request = harRequest(parseJson(text));
    return request ?? { method: "POST", url: "", headers: [["content-type", "application/json"]], body: text };
  }
  throw new NotARequest(
    "This is neither a curl command, nor an HTTP request, nor an entry of a HAR file, nor a call of fetch, nor a JSON body.",
  );
}

/** A request whose address holds no name and password: they go as curl sends them. */
function withoutLogin(request: PastedRequest): PastedRequest {
  const [, start = "", login, rest = ""] = /^(https?:\/\/)([^/?#]*)@(.*)$/is.exec(request.url) ?? [];
  if (login === undefined) return request;
  return { ...request, url: start + rest, user: request.user ?? login };
}
