import { leavesOf, wordsIn } from "../fitting/finding";
import { parseShallow, percentEncoded } from "../json";

/** A pasted text without its secrets, and those by the names that stand in their place as `•name•`. */
export interface Hidden {
  text: string;
  secrets: Record<string, string>;
}

const mark = /•([\w.-]+)•/g;

/** A secret by its name, as it stands in a text that was hidden. */
export function markOf(name: string): string {
  return `•${name}•`;
}

/** The names of the secrets that stand in a text. */
export function marksIn(text: string): string[] {
  return Array.from(text.matchAll(mark), ([, name = ""]) => name);
}

/** A hidden text as it was. */
export function revealed(text: string, secrets: Readonly<Record<string, string>>): string {
  return text.replace(mark, (written, name: string) => secrets[name] ?? written);
}

/**
 * Hides every secret of a pasted command or request: in headers, cookies, the query, the address, the
 * path, the body and the options of curl, by what stands beside it or by how it looks. It reads the text as
 * it is, so that one which is broken or half typed is hidden as well as one that works.
 * @param known the secrets of the same text as it was hidden before; they keep their names
 */
export function hideSecrets(text: string, known: Readonly<Record<string, string>> = {}): Hidden {
  const plain = revealed(text, known);
  const secrets: Record<string, string> = {};
  const pictures = picturesIn(plain);
  const isInPicture = ({ from }: Span) => pictures.some((each) => each.from <= from && from < each.to);
  const spans = disjoint(secretsIn(plain).filter((span) => !isInPicture(span)));
  for (const span of spans) span.name = nameFor(span, secrets, known);
  let hidden = "";
  let at = 0;
  for (const { from, to, name } of spans) {
    hidden += plain.slice(at, from) + markOf(name);
    at = to;
  }
  hidden += plain.slice(at);
  // what was found once is hidden wherever else it stands, however it is written there
  for (const [name, value] of Object.entries(secrets).sort(([, a], [, b]) => b.length - a.length))
    if (value.length >= longEnough) for (const form of formsOf(value)) hidden = hidden.replaceAll(form, markOf(name));
  return { text: hidden, secrets };
}

/** Where pictures and other files stand in a text as data URLs (RFC 2397), or as base64 that is far too long for a key. */
function picturesIn(text: string): { from: number; to: number }[] {
  const found = [
    ...text.matchAll(/data:[\w.+-]+\/[\w.+-]+;base64,[A-Za-z0-9+/=_-]+|(?<![A-Za-z0-9+/])[A-Za-z0-9+/]{1000,}={0,2}/g),
  ];
  return found.map(({ 0: all, index }) => ({ from: index, to: index + all.length }));
}

/** A text in which secrets that are known are hidden, such as an answer that echoes one. */
export function hideKnown(text: string, secrets: Readonly<Record<string, string>>): string {
  return Object.entries(secrets)
    .filter(([, value]) => value.length >= longEnough)
    .sort(([, a], [, b]) => b.length - a.length)
    .reduce(
      (before, [name, value]) => formsOf(value).reduce((each, form) => each.replaceAll(form, markOf(name)), before),
      text,
    );
}

/** Characters of a secret that is looked for everywhere: a shorter one may be a word. */
const longEnough = 6;

function formsOf(value: string): string[] {
  return [
    ...new Set([value, JSON.stringify(value).slice(1, -1), percentEncoded(value), value.replaceAll("'", "'\\''")]),
  ];
}

interface Span {
  from: number;
  to: number;
  value: string;
  /** What it is called where it stands. */
  name: string;
}

/** A name that no other value has; the same value keeps its name. */
function nameFor(
  { value, name }: Span,
  secrets: Record<string, string>,
  known: Readonly<Record<string, string>>,
): string {
  const before = Object.entries({ ...known, ...secrets }).find(([, each]) => each === value)?.[0];
  const plain =
    name
      .toLowerCase()
      .replace(/[^\w.-]+/g, "-")
      .replace(/^-+|-+$/g, "") || "secret";
  let free = before ?? plain;
  for (let number = 2; free in secrets && secrets[free] !== value; number++) free = `${plain}-${number}`;
  secrets[free] = value;
  return free;
}

/** Spans in order, of two that overlap the one that begins first. */
function disjoint(spans: Span[]): Span[] {
  const kept: Span[] = [];
  for (const span of spans.sort((a, b) => a.from - b.from || b.to - a.to))
    if (span.from >= (kept.at(-1)?.to ?? 0) && span.to > span.from) kept.push(span);
  return kept;
}

/** Names of what must not be seen. */
const secretNames =
  /^(?:key|apikey|token|accesstoken|auth|authorization|authorisation|pass|passwd|password|passphrase|passcode|pwd|secret|secrets|credential|credentials|cookie|session|sessionid|sid|sig|signature|jwt|bearer|csrf|xsrf|pat|otp|pin|hmac)$/;
/** Names of what belongs to one call, or tells calls, callers and versions apart, whatever else they hold. */
const plainNames =
  /^(?:idempotency|request|correlation|trace|tracing|traceparent|span|organisation|organization|org|project|version|beta|region|tenant|workspace|counter|count|sequence|seq|timestamp|date)$/;
/** Names of what belongs to one call alone. */
const callNames = /^(?:idempotency|correlation|trace|tracing|traceparent|span|nonce|counter|sequence|seq|timestamp)$/;

/** Whether a header, a parameter or a member holds a secret, by its name. */
export function isSecretName(name: string): boolean {
  const words = wordsIn(name);
  if (words.includes("idempotency")) return false;
  return words.some((word) => secretNames.test(word)) || secretNames.test(words.join(""));
}

/** Whether a header belongs to one call, so that no other call may carry it. */
export function isForOneCall(name: string): boolean {
  const words = wordsIn(name);
  return words.some((word) => callNames.test(word)) || (words.includes("request") && words.includes("id"));
}

function isPlainName(name: string): boolean {
  return wordsIn(name).some((word) => plainNames.test(word));
}

/** Whether a header's value looks like a key: letters and figures mixed, long enough, and no date, version or type. */
function looksLikeKey(value: string): boolean {
  return (
    /^[\w.+/=~-]{10,}$/.test(value) &&
    /\d/.test(value) &&
    /[a-z]/i.test(value) &&
    !/^\d{4}-\d\d/.test(value) &&
    !/^v?\d+(?:\.\d+)*$/.test(value) &&
    !/^[a-z]+\/[\w.+-]+$/i.test(value)
  );
}

/** Whether a word looks drawn by chance, as keys are, wherever it stands. */
function looksRandom(word: string): boolean {
  if (word.length < 16 || word.length > 4_000) return false;
  if (/^eyJ[\w-]+\.[\w-]+\./.test(word)) return true;
  if (/^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$/i.test(word)) return false;
  return word.split(/[-_.~/+=]/).some((part) => {
    const turns = part.match(/\d(?=[a-z])|[a-z](?=\d)/gi)?.length ?? 0;
    const cases = part.match(/[a-z](?=[A-Z])|[A-Z](?=[A-Z]?[a-z]?[A-Z])/g)?.length ?? 0;
    return part.length >= 12 && /\d/.test(part) && turns + cases >= 4;
  });
}

/** What is no secret itself: one that is hidden already, a variable, or a place for something. */
function isStandIn(value: string): boolean {
  return /^•|^\$|^[<{[(]|^\*+$|^\.\.\.$|^…$/.test(value) || value.trim() === "";
}

/** The word before what an authorization holds (RFC 9110, 11.4), whatever it is. */
const scheme = /^[A-Za-z][\w!#$%&'*+.^`|~-]{0,40}[ \t]+(?=\S+\s*$)/;

function secretsIn(text: string): Span[] {
  const spans: Span[] = [];
  const add = (from: number, value: string, name: string, least = 1) => {
    if (value.length >= least && !isStandIn(value)) spans.push({ from, to: from + value.length, value, name });
  };
  /** A header's value: a scheme stays, and of cookies the names. */
  const header = (name: string, value: string, from: number) => {
    const lower = name.toLowerCase();
    if (lower === "cookie" || lower === "set-cookie") return pairs(value, from, /;\s*/, () => true);
    const skipped = scheme.exec(value)?.[0].length ?? 0;
    const isNamedSo = isSecretName(name);
    if (isNamedSo || (!isPlainName(name) && looksLikeKey(value) && !/^(?:accept|content|user|host|origin)/.test(lower)))
      add(from + skipped, value.slice(skipped).trimEnd(), lower);
  };
  /** `name=value` pairs, of which some are secret. */
  const pairs = (all: string, from: number, between: RegExp, isSecret: (name: string, value: string) => boolean) => {
    let at = 0;
    for (const pair of all.split(between)) {
      const start = all.indexOf(pair, at);
      const equals = pair.indexOf("=");
      at = start + pair.length;
      const [name, value] = [pair.slice(0, equals).trim(), pair.slice(equals + 1)];
      if (equals > 0 && isSecret(name, value)) add(from + start + equals + 1, value, name);
    }
  };
  const isSecretPair = (name: string, value: string) =>
    isSecretName(name) || (!isPlainName(name) && looksRandom(value));

  // headers of curl, with or without quotes, closed or not
  for (const match of text.matchAll(
    /(?:^|\s)(?:-H|--header|--proxy-header)(?:\s+|=)?\$?(['"]?)\s*([\w-]+)[ \t]*:[ \t]*/g,
  )) {
    const from = match.index + match[0].length;
    header(match[2] ?? "", valueTo(text, from, match[1] ?? ""), from);
  }
  // lines of a raw request
  for (const match of text.matchAll(/^([\w-]{2,60})[ \t]*:[ \t]*([^\r\n]+)$/gm))
    header(match[1] ?? "", match[2] ?? "", match.index + match[0].length - (match[2] ?? "").length);
  // options that hold a name and a password, a token or cookies
  for (const match of text.matchAll(
    /(?:^|\s)(?:-u|--user|-U(?!ri\b|se[A-Z])|--proxy-user|-E(?!rror)|--cert)(?:\s+|=)?\$?(['"]?)/g,
  )) {
    const from = match.index + match[0].length;
    const value = valueTo(text, from, match[1] ?? "");
    const colon = value.indexOf(":");
    if (colon >= 0 && colon < value.length - 1) add(from + colon + 1, value.slice(colon + 1), "password");
    else add(from, colon < 0 ? value : value.slice(0, colon), "user");
  }
  for (const match of text.matchAll(
    /(?:^|\s)(--oauth2-bearer|--pass|--proxy-pass|--tlspassword|--proxy-tlspassword)(?:\s+|=)\$?(['"]?)/g,
  )) {
    const from = match.index + match[0].length;
    add(from, valueTo(text, from, match[2] ?? ""), (match[1] ?? "").slice(2));
  }
  for (const match of text.matchAll(/(?:^|\s)(?:-b|--cookie)(?:\s+|=)?\$?(['"]?)/g)) {
    const from = match.index + match[0].length;
    pairs(valueTo(text, from, match[1] ?? ""), from, /;\s*/, () => true);
  }
  // a name and a password in an address
  for (const match of text.matchAll(/[a-z][\w+.-]*:\/\/([^\s/@'"?#]+)@/gi)) {
    const login = match[1] ?? "";
    const from = match.index + match[0].length - login.length - 1;
    const colon = login.indexOf(":");
    if (colon >= 0 && colon < login.length - 1) add(from + colon + 1, login.slice(colon + 1), "password");
    else add(from, colon < 0 ? login : login.slice(0, colon), "user");
  }
  // a query, a form, and variables that are set before a command
  for (const match of text.matchAll(/(?<=^|[?&\s'"])([\w.[\]-]+)=([^&\s'"#]*)/g)) {
    const [, name = "", value = ""] = match;
    if (isSecretPair(name, value)) add(match.index + match[0].length - value.length, value, name);
  }
  // members of JSON, also of JSON in a string of JSON
  for (const match of text.matchAll(/\\*"([\w.-]+)\\*"\s*:\s*\\*"((?:[^"\\]|\\.)*)/g)) {
    const [, name = "", written = ""] = match;
    const value = written.replace(/\\+$/, "");
    if (!/\s/.test(value.trim()) && (isSecretName(name) || (!isPlainName(name) && looksRandom(value))))
      add(match.index + match[0].length - written.length, value, name);
  }
  // members of a program, in either quotes, and what names and tables are set to
  for (const match of text.matchAll(
    /(?<![\w-])(['"]?)([\w-]{2,60})\1[ \t]*(?::|=>?)[ \t]*[rbuf]{0,2}(['"])((?:(?!\3)[^\\\n]|\\.)*)\3/gi,
  )) {
    const [all, , name = "", , value = ""] = match;
    const from = match.index + all.length - value.length - 1;
    // a scheme alone, to which the key is joined
    if (/\s$/.test(value)) continue;
    if (wordsIn(name).some((word) => word.endsWith("authorization") || word === "cookie")) header(name, value, from);
    else if (!/\s/.test(value) && (isSecretName(name) || (!isPlainName(name) && looksRandom(value))))
      add(from, value, name);
  }
  // words of an address that look like a key, or stand after what says so
  for (const match of text.matchAll(/https?:\/\/[^\s'"/?#]*(\/[^\s'"?#]*)/gi)) {
    const path = match[1] ?? "";
    let from = match.index + match[0].length - path.length;
    let before = "";
    for (const part of path.split("/")) {
      if (looksRandom(part) || (isSecretName(before) && looksLikeKey(part))) add(from, part, before || "path");
      from += part.length + 1;
      before = part;
    }
  }
  // what looks like a key wherever it stands
  for (const match of text.matchAll(/(?<![\w.+=~/-])[\w-]{16,}/g))
    if (looksRandom(match[0])) add(match.index, match[0], "key");
  for (const match of text.matchAll(/\beyJ[\w-]{5,}\.[\w-]{5,}\.[\w-]*/g)) add(match.index, match[0], "token");
  for (const match of text.matchAll(/\b(?:bearer|basic)\s+([\w.+/=~-]{6,})/gi))
    add(match.index + match[0].length - (match[1] ?? "").length, match[1] ?? "", "authorization");
  return [...spans, ...secretsOfBody(text)];
}

/** What stands from a place up to the quote that closes it, or up to a space where none was opened. */
function valueTo(text: string, from: number, quote: string): string {
  const end = quote === "" ? /[\s'"]/ : quote === "'" ? /'/ : /(?<!\\)"/;
  const rest = text.slice(from);
  const at = rest.search(end);
  const value = at < 0 ? rest : rest.slice(0, at);
  // a quote that was never closed ends with its line
  return value.split(/\r?\n/)[0] ?? "";
}

/** Secrets in a body of JSON alone, whose members may be written over several lines. */
function secretsOfBody(text: string): Span[] {
  const start = text.indexOf("{");
  const document = start < 0 ? undefined : parseShallow(text.slice(start, text.lastIndexOf("}") + 1));
  if (document === undefined) return [];
  return leavesOf(document).flatMap(({ steps, value }) => {
    const name = steps.findLast((step) => typeof step === "string") ?? "body";
    if (typeof value !== "string" || /\s/.test(value) || isStandIn(value)) return [];
    if (!isSecretName(String(name)) && !looksRandom(value)) return [];
    const from = text.indexOf(JSON.stringify(value).slice(1, -1), start);
    return from < 0 ? [] : [{ from, to: from + JSON.stringify(value).length - 2, value, name: String(name) }];
  });
}
