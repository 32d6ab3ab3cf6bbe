import type { Json } from "../wire/json";

/**
 * How the call of a tool's address is filled from the arguments that a model gave. `{place}` in the address, or in a
 * body, stands for the argument `place`. In the path each has to be given; a parameter of the query or a member of the
 * body whose arguments are not given is left out. Arguments that stand nowhere go along as the query of a GET or a
 * DELETE, and as the JSON body of all else.
 */

/** How an address is called. */
export interface CalledAddress {
  method: "GET" | "POST" | "PUT" | "PATCH" | "DELETE";
  /** With `{name}` for arguments, in its path and its query. */
  url: string;
  /** A JSON value in which a text `{name}` stands for an argument as it is, and within a longer text for its words. */
  body?: Json;
}

export type Arguments = Readonly<Record<string, Json>>;

/** The call as it goes out; or what was not given, or can't stand where it should. */
export type FilledCall = { kind: "filled"; url: string; body: Json | undefined } | { kind: "unfit"; why: string };

const named = /\{([A-Za-z_][\w.-]{0,63})\}/g;

export function filledCall({ method, url, body }: CalledAddress, given: Arguments): FilledCall {
  const used = new Set([...namesIn(url), ...namesIn(JSON.stringify(body ?? ""))]);
  const [path = "", query = ""] = url.split(/\?(.*)/s);
  const missing = namesIn(path).find((name) => !isGiven(given[name]));
  if (missing !== undefined) return { kind: "unfit", why: `${missing} is not given, and stands in its address` };
  const whole = new URL(replaced(path, given));
  // an argument of dots would climb out of the path that the developer named
  if (segmentsOf(whole.href) !== segmentsOf(path.replace(named, "x")))
    return { kind: "unfit", why: "an argument would lead to another path" };
  for (const [name, value] of new URLSearchParams(query.replace(/#.*/s, "")))
    if (namesIn(value).every((each) => isGiven(given[each]))) whole.searchParams.append(name, wordsIn(value, given));
  const rest = Object.entries(given).filter(([name, value]) => !used.has(name) && isGiven(value));
  if (method === "GET" || method === "DELETE") {
    for (const [name, value] of rest) whole.searchParams.append(name, wordsOf(value));
    return { kind: "filled", url: whole.href, body: body === undefined ? undefined : filledValue(body, given) };
  }
  return {
    kind: "filled",
    url: whole.href,
    body: body === undefined ? Object.fromEntries(rest) : (filledValue(body, given) ?? null),
  };
}

/** The arguments that a text names, each once. */
export function namesIn(text: string): string[] {
  return [...new Set([...text.matchAll(named)].map(([, name = ""]) => name))];
}

function isGiven(value: Json | undefined): value is Json {
  return value !== undefined && value !== null;
}

function replaced(path: string, given: Arguments): string {
  return path.replace(named, (_, name: string) => encodeURIComponent(wordsOf(given[name] ?? "")));
}

function segmentsOf(url: string): number {
  return new URL(url).pathname.split("/").length;
}

/** A text with the words of its arguments. */
function wordsIn(text: string, given: Arguments): string {
  return text.replace(named, (_, name: string) => wordsOf(given[name] ?? ""));
}

function wordsOf(value: Json): string {
  return typeof value === "string" ? value : JSON.stringify(value);
}

/** A value with its arguments; undefined where one of them is not given. */
function filledValue(value: Json, given: Arguments): Json | undefined {
  if (typeof value === "string") {
    const [only] = namesIn(value);
    if (only !== undefined && value === `{${only}}`) return given[only] ?? undefined;
    return namesIn(value).every((name) => isGiven(given[name])) ? wordsIn(value, given) : undefined;
  }
  if (Array.isArray(value)) return value.flatMap((each) => filledValue(each, given) ?? []);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).flatMap(([name, each]) => {
      const filled = filledValue(each, given);
      return filled === undefined ? [] : [[name, filled]];
    }),
  );
}
