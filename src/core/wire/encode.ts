import { joined, type Piece, piecesOf, textOf } from "../conversation/pieces";
import { percentEncoded } from "./json";
import type { CompiledProfile } from "./profile";

/** Who speaks in a message that is sent. */
export type WireRole = "system" | "visitor" | "app";

/** One message as the core hands it to a profile. */
export interface WireMessage {
  role: WireRole;
  pieces: Piece[];
  /** What the API gave along with this reply, to have it back with the next call. */
  carry?: unknown;
}

/** The settings of a model that a profile can carry. */
export interface WireSettings {
  /** 0 to 2. */
  temperature?: number;
  /** Above 0, up to 1. */
  topP?: number;
  /** The number of likely words to choose from, from 1. */
  topK?: number;
  /** Tokens that the reply may have at most. */
  maxOutput?: number;
  /** Words at which the reply ends. */
  stop?: string[];
  seed?: number;
}

/** Everything that one call of a provider is made from. */
export interface WireCall {
  model: string;
  /** The credential; undefined where the provider needs none. */
  key?: string;
  /** Further secrets of the provider, by the names under which a profile has them. */
  extras?: Readonly<Record<string, string>>;
  stream: boolean;
  messages: WireMessage[];
  settings: WireSettings;
  /** Replies that are asked for at once, where it is more than one. */
  takes?: number;
}

/** An HTTP request, up to the address that it goes to. */
export interface WireRequest {
  method: string;
  /** With the query. */
  path: string;
  headers: Record<string, string>;
  body?: string;
}

/** Stands for the key wherever a request is shown or stored. */
export const hiddenKey = "••••";

/** Stands for one of the further secrets in the same places. */
export function hiddenExtra(name: string): string {
  return `•${name}•`;
}

/** The extras of a provider as they are shown. */
export function hiddenExtras(names: readonly string[]): Record<string, string> {
  return Object.fromEntries(names.map((name) => [name, hiddenExtra(name)]));
}

/** A text with `<extra:name>` in it, filled; what has no value stays as it is. */
export function withExtras(text: string, extras: Readonly<Record<string, string>>): string {
  return text.replace(/<extra:([\w.-]+)>/g, (written, name: string) => extras[name] ?? written);
}

/**
 * The request that a profile makes of a call.
 * @param shown the same with marks in the places of its secrets: where its body holds none, that is used again,
 *   since writing thousands of messages is most of the work
 */
export function encode(profile: CompiledProfile, call: WireCall, shown?: WireRequest): WireRequest {
  const { head, body } = fill(profile, call, (values) => values);
  if (shown && !profile.requestFor(call.model).hasSecretBody) return { ...head, body: shown.body };
  return { ...head, body: JSON.stringify(body()) };
}

/** The same with the body as a document, and with values that `turn` may change before they are filled in. */
export function fill(
  profile: CompiledProfile,
  call: WireCall,
  turn: (values: Record<string, unknown>) => Record<string, unknown>,
): { head: Omit<WireRequest, "body">; body: () => unknown } {
  const request = profile.requestFor(call.model);
  const plain = valuesOf(profile, call, request.defaults);
  const values = turn(plain);
  const inUrl = turn(urlValues(plain));
  const path = String((call.stream ? request.streamPath : request.path)(inUrl));
  const query = Object.entries((request.query(inUrl) ?? {}) as Record<string, unknown>);
  const head = {
    method: profile.source.request.method,
    path:
      query.length === 0
        ? path
        : `${path}?${query.map(([name, value]) => `${encodeURIComponent(name)}=${value}`).join("&")}`,
    headers: (request.headers(values) ?? {}) as Record<string, string>,
  };
  return { head, body: () => request.body(values) };
}

/** The headers and the query of a profile's request alone, for calls beside those for a reply. */
export function credentialsOf(
  profile: CompiledProfile,
  key: string | undefined,
  extras: Readonly<Record<string, string>>,
): Pick<WireRequest, "headers" | "path"> {
  const { headers, path } = encode(profile, { model: "-", key, extras, stream: false, messages: [], settings: {} });
  return { headers, path: path.includes("?") ? path.slice(path.indexOf("?")) : "" };
}

/** A call as the values of a template's placeholders. */
function valuesOf(profile: CompiledProfile, call: WireCall, defaults: object): Record<string, unknown> {
  const { roles } = profile.source;
  const given = Object.fromEntries(Object.entries(call.settings).filter(([, value]) => value !== undefined));
  const { system, messages } = arranged(profile, call.messages);
  return {
    ...defaults,
    ...given,
    ...Object.fromEntries(Object.entries(call.extras ?? {}).map(([name, value]) => [`extra:${name}`, value])),
    model: call.model,
    key: call.key,
    stream: call.stream,
    takes: call.takes,
    system,
    messages: messages.map(({ role, pieces, carry }) => ({
      role: roles[role],
      text: textOf({ pieces }),
      pieces,
      carry,
    })),
    carry: messages.findLast(({ role }) => role === "app")?.carry,
  };
}

/** The messages in the order and the roles that the API takes, with the system prompt where it belongs. */
function arranged(profile: CompiledProfile, messages: WireMessage[]): { system?: string; messages: WireMessage[] } {
  const { prompt, merge, goOn } = profile.source.roles;
  let said = messages;
  let system: string | undefined;
  if (prompt !== "message") {
    system =
      said
        .filter(({ role }) => role === "system")
        .map(textOf)
        .join("\n\n") || undefined;
    said = said.filter(({ role }) => role !== "system");
  }
  if (prompt === "first" && system !== undefined) {
    const first = said.findIndex(({ role }) => role === "visitor");
    const prompt = piecesOf(`${system}\n\n`);
    said = said.map((each, at) => (at === first ? { ...each, pieces: joined(prompt, each.pieces) } : each));
  }
  if (goOn !== "prefix" && said.at(-1)?.role === "app")
    said = [...said, { role: "visitor", pieces: piecesOf(goOn.ask) }];
  return { system, messages: merge ? mergedNeighbours(said) : said };
}

function mergedNeighbours(messages: WireMessage[]): WireMessage[] {
  const result: WireMessage[] = [];
  for (const message of messages) {
    const before = result.at(-1);
    if (before?.role === message.role)
      result[result.length - 1] = {
        ...message,
        pieces: joined(joined(before.pieces, piecesOf("\n\n")), message.pieces),
      };
    else result.push(message);
  }
  return result;
}

/** Values as they stand in a URL; the marks of hidden secrets stay readable. */
function urlValues(values: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => [
      name,
      typeof value === "string" && !/^•.*•$/.test(value) ? percentEncoded(value) : value,
    ]),
  );
}
