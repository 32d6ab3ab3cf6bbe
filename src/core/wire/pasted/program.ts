import { withoutBrowsers } from "./har";
import { Literals } from "./literals";
import { NotARequest, type PastedRequest } from "./pasted";

/** A call of an HTTP client in a program: `fetch(…)`, `client.post(…)` or `client.request(…)`. */
const call = /\b(?:fetch|axios)\s*\(|\b[A-Za-z_]\w*\s*\.\s*(post|put|get|request|stream)\s*\(/g;

/** Whether a text is a program that calls an API. */
export function isProgram(text: string): boolean {
  return (
    /^(?:import|from|const|let|var|await|return|async|with|print|\(|#|\/\/|window\.|[A-Za-z_]\w*\s*=|[A-Za-z_]\w*\s*\.\s*(?:post|put|get|request|stream)\s*\(|(?:fetch|axios)\s*\()/.test(
      text,
    ) && new RegExp(call.source).test(text)
  );
}

/**
 * Reads a call as a browser copies it or as it stands in a program: an address, headers and a body as literals, or as names
 * that were set to some. What is filled in becomes `$NAME`.
 * @throws {NotARequest}
 */
export function programRequest(text: string): PastedRequest {
  const found = [...text.matchAll(call)].find(({ index }) => addressAfter(text, index));
  if (!found) throw new NotARequest("The program holds no call with an address.");
  const set = settings(text.slice(0, found.index));
  const { ordered, named } = new Literals(text, found.index + found[0].length, set).call();
  const [verb, read] = [found[1] === "stream" ? "request" : found[1], [...ordered]];
  if (verb === "request" && /^[A-Z]{3,7}$/i.test(String(read[0])) && !("method" in named)) named.method = read.shift();
  const first = read[0];
  // a client that takes one object has the address in it
  const options = (verb === "request" || verb === undefined) && isObject(first) ? first : undefined;
  const url = options ? options.url : (named.url ?? read.shift());
  if (typeof url !== "string") throw new NotARequest("The call holds no address.");
  // post and put of some clients take what is sent before what they are told
  const isBodyFirst = verb !== undefined && verb !== "request" && read.length > 0;
  const body = isBodyFirst ? read[0] : undefined;
  const more = options ?? (isObject(read[isBodyFirst ? 1 : 0]) ? (read[isBodyFirst ? 1 : 0] as Members) : {});
  return made(verb, url, { ...(isBodyFirst && verb !== "get" ? { data: body } : {}), ...more, ...withForm(named) });
}

type Members = Record<string, unknown>;

/** Named arguments, in which members that are sent as data go as a form. */
function withForm(named: Members): Members {
  return isObject(named.data) ? { ...named, data: formOf(named.data) } : named;
}

/** Members as a form or a query, in which what is filled in stays readable. */
function formOf(members: Members): string {
  const written = new URLSearchParams(members as Record<string, string>).toString();
  return written.replaceAll("%24", "$").replaceAll("%E2%80%A2", "•");
}

function made(verb: string | undefined, url: string, options: Members): PastedRequest {
  const { method, headers, params, auth } = options;
  const data = options.body ?? options.content ?? options.json ?? options.data;
  const body = data === undefined || data === null ? "" : typeof data === "string" ? data : JSON.stringify(data);
  const pairs = Array.isArray(headers) ? headers : Object.entries(isObject(headers) ? headers : {});
  const [user, password] = Array.isArray(auth) ? auth : isObject(auth) ? [auth.username, auth.password] : [];
  const query = isObject(params) ? formOf(params) : "";
  const whole = query === "" ? url : `${url}${url.includes("?") ? "&" : "?"}${query}`;
  const usual = verb && verb !== "request" ? verb : body === "" ? "get" : "post";
  return {
    method: (typeof method === "string" ? method : usual).toUpperCase(),
    url: whole.startsWith("//") ? `https:${whole}` : whole,
    headers: withoutBrowsers(
      pairs.map((each: unknown[]): [string, string] => [String(each[0]), String(each[1] ?? "")]),
    ),
    body,
    ...(user === undefined ? {} : { user: `${user}:${password ?? ""}` }),
  };
}

function isObject(value: unknown): value is Members {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** Whether a call begins with an address, a method before one, or a name that may hold it. */
function addressAfter(text: string, at: number): boolean {
  return !/^[^(]*\(\s*\)/.test(text.slice(at, at + 200));
}

/** What names were set to before a call, as far as it stands there as literals. */
function settings(before: string): Map<string, unknown> {
  const set = new Map<string, unknown>();
  for (const match of before.matchAll(
    /^[ \t]*(?:export[ \t]+)?(?:const[ \t]+|let[ \t]+|var[ \t]+)?([A-Za-z_$][\w$]*)[ \t]*=[ \t]*(?=["'`{[]|[rbuf]{1,2}["']|JSON|json\.|os\.|process\.|getenv)/gim,
  )) {
    try {
      set.set(match[1] as string, new Literals(before, match.index + match[0].length, set).value());
    } catch (error) {
      if (!(error instanceof NotARequest)) throw error;
    }
  }
  return set;
}
