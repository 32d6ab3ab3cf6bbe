import { withoutBrowsers } from "./har";
import { Literals } from "./literals";
import { NotARequest, type PastedRequest } from "./pasted";

/** A call of an HTTP client in a program: `fetch(…)`, `client.post(…)` or `client.request(…)`. */
const call = /\b(?:fetch|axios)\s*\(|\b[A-Za-z_]\w*\s*\.\s*(post|put|get|request|stream)\s*\(/g;

/** How programs begin: with a word of the language, a comment, a name that is set, or the call. */
const beginning =
  /^(?:(?:import|from|const|let|var|await|return|async|with)\b|print\b|\(|#|\/\/|window\.|[A-Za-z_]\w*\s*[=.(])/;

/** Whether a text is a program that calls an API. */
export function isProgram(text: string): boolean {
  return beginning.test(text) && text.search(call) >= 0;
}

/**
 * Reads a call as a browser copies it or as it stands in a program: an address, headers and a body as literals, or as names
 * that were set to some. What is filled in becomes `$NAME`.
 * @throws {NotARequest}
 */
export function programRequest(text: string): PastedRequest {
  const found = [...text.matchAll(call)].find(({ 0: begun, index }) => !isEmpty(text, index + begun.length));
  if (!found) throw new NotARequest("The program holds no call with an address.");
  const set = settingsBefore(text.slice(0, found.index));
  const given = new Literals(text, found.index + found[0].length, set).call();
  return requestOf(found[1] === "stream" ? "request" : found[1], given.ordered, withForm(given.named));
}

/**
 * The request that a call makes.
 * @param verb by which it is called; undefined for a function that is the call itself
 */
function requestOf(verb: string | undefined, ordered: readonly unknown[], named: Members): PastedRequest {
  const [first, ...further] = ordered;
  // a client that takes one object has the address in it
  if (isObject(first) && (verb === undefined || verb === "request"))
    return made(verb, first.url, { ...first, ...named });
  if (verb === "request" && /^[A-Z]{3,7}$/i.test(String(first)))
    return requestOf("request", further, { method: first, ...named });
  const url = named.url ?? first;
  // post and put of some clients take what is sent before what they are told
  const takesBody = verb === "post" || verb === "put";
  const [body, options] = takesBody ? further : [undefined, further[0]];
  return made(verb, url, {
    ...(body === undefined ? {} : { data: body }),
    ...(isObject(options) ? options : {}),
    ...named,
  });
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

function made(verb: string | undefined, url: unknown, options: Members): PastedRequest {
  if (typeof url !== "string") throw new NotARequest("The call holds no address.");
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

/** Whether a call has no arguments. */
function isEmpty(text: string, at: number): boolean {
  return /^\s*\)/.test(text.slice(at, at + 200));
}

/** How a name is set to something that can be read: a literal, one that is written as JSON, or what stands in the environment. */
const setting =
  /^[ \t]*(?:export[ \t]+)?(?:const[ \t]+|let[ \t]+|var[ \t]+)?([A-Za-z_$][\w$]*)[ \t]*=[ \t]*(?=["'`{[]|[rbuf]{1,2}["']|JSON|json\.|os\.|process\.|getenv)/gim;

/** What names were set to before a call, as far as it stands there as literals. */
function settingsBefore(before: string): Map<string, unknown> {
  const set = new Map<string, unknown>();
  for (const match of before.matchAll(setting)) {
    try {
      set.set(match[1] as string, new Literals(before, match.index + match[0].length, set).value());
    } catch (error) {
      if (!(error instanceof NotARequest)) throw error;
    }
  }
  return set;
}
