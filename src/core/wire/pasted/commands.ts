import { withoutBrowsers } from "./har";
import { headersIn } from "./http";
import { NotARequest, type PastedRequest } from "./pasted";
import { shellCommand } from "./shell";

/** Reads a call by wget, by its manual (https://www.gnu.org/software/wget/manual/wget.html). @throws {NotARequest} */
export function wgetRequest(text: string): PastedRequest {
  const { words, notes } = shellCommand(text);
  const headers: string[] = [];
  const said: Record<string, string> = {};
  let url = "";
  const given = words.slice(1);
  for (const [at, word] of given.entries()) {
    const [, name, inner] = /^--([\w-]+)(?:=([\s\S]*))?$/.exec(word) ?? [];
    const value = inner ?? given[at + 1] ?? "";
    const isHost = /^[^-=\s]+\.[^\s]+$/.test(word) && !/^-/.test(given[at - 1] ?? "");
    if (name === "header") headers.push(value);
    else if (name !== undefined) said[name] = value;
    else if (/^https?:/i.test(word) || (isHost && url === "")) url = word;
  }
  if (url === "") throw new NotARequest("The command holds no address.");
  const file = said["post-file"] ?? said["body-file"];
  if (file !== undefined) throw new NotARequest(`The body stands in the file ${file}: paste it as --post-data='…'.`);
  const body = said["post-data"] ?? said["body-data"] ?? "";
  const password = said.password ?? said["http-password"] ?? "";
  const user = said.user ?? said["http-user"];
  return {
    method: (said.method ?? (body === "" ? "GET" : "POST")).toUpperCase(),
    url: /^https?:/i.test(url) ? url : `http://${url}`,
    headers: headersIn(headers),
    body,
    ...(user === undefined ? {} : { user: `${user}:${password}` }),
    notes,
  };
}

/**
 * Reads a call as the Windows shell with a backtick makes it: `Invoke-RestMethod` or `Invoke-WebRequest`, as browsers copy it
 * too, with its headers as `@{ "name" = "value" }`.
 * @throws {NotARequest}
 */
export function invokeRequest(text: string): PastedRequest {
  const plain = text.replace(/`\r?\n\s*/g, " ");
  const option = (names: string) => {
    const found = new RegExp(`\\s-(?:${names})\\s+`, "i").exec(plain);
    return found ? valueAt(plain, found.index + found[0].length) : undefined;
  };
  const url = option("Uri") ?? /Invoke-\w+\s+(["']?)(https?:[^\s"']+)\1/i.exec(plain)?.[2];
  if (!url) throw new NotARequest("The command holds no address.");
  const headers = Array.from(
    (/-Headers\s+@\{([\s\S]*?)\n?\}/i.exec(plain)?.[1] ?? "").matchAll(/(["']?)([\w-]+)\1\s*=\s*(?=["'$])/g),
    (match): [string, string] => [match[2] as string, valueAt(match.input, match.index + match[0].length)],
  );
  const type = option("ContentType");
  const body = option("Body") ?? "";
  return {
    method: (option("Method") ?? (body === "" ? "GET" : "POST")).toUpperCase(),
    url,
    headers: [
      ...withoutBrowsers(headers).filter(([name]) => !pseudo.test(name)),
      ...(type ? [["content-type", type] as [string, string]] : []),
    ],
    body,
  };
}

/** Parts of the request line, which browsers write among the headers. */
const pseudo = /^(?:method|path|scheme|authority)$/i;

/** A value of that shell at a place: in quotes, where a backtick escapes and a doubled quote is one, or a word. */
function valueAt(text: string, at: number): string {
  const quote = text[at];
  if (quote === "'") {
    const [, inner = ""] = /^'((?:[^']|'')*)'/.exec(text.slice(at)) ?? [];
    return inner.replaceAll("''", "'");
  }
  if (quote === '"') {
    const [, inner = ""] = /^"((?:[^"`\\]|`[\s\S]|\\[\s\S]|"")*)"/.exec(text.slice(at)) ?? [];
    return inner
      .replaceAll('""', '"')
      .replace(/`([\s\S])/g, "$1")
      .replace(/\\"/g, '"')
      .replace(/\$env:(\w+)/gi, "$$$1");
  }
  return (/^[^\s]+/.exec(text.slice(at))?.[0] ?? "").replace(/^\$env:/i, "$");
}
