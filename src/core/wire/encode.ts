import { argumentsText, piecesOf, resultText, textOf } from "../conversation/pieces";
import type { Offered, ToolChoice } from "../tools/tool";
import { fileMark } from "./files";
import { percentEncoded, written } from "./json";
import type { WireMessage, WireRole } from "./message";
import { fitsSetting, type OwnValue } from "./own-settings";
import type { CompiledProfile } from "./profile";
import { fittedMessage, type SentMessage, type SentPart, type SentRole, splitMessage } from "./split";

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
  /** Settings that the API has of its own. */
  own?: Readonly<Record<string, OwnValue>>;
}

/** Everything that one call of a provider is made from. */
export interface WireCall {
  model: string;
  /** The credential; undefined where the provider needs none. */
  key?: string;
  /** Values of the provider's own, by the names under which its profile has them. */
  values?: Readonly<Record<string, string>>;
  /** Further secrets of the provider, by the names under which a profile has them. */
  extras?: Readonly<Record<string, string>>;
  stream: boolean;
  messages: WireMessage[];
  settings: WireSettings;
  /** The tools that the model may ask for. */
  tools?: readonly Offered[];
  /** Whether it calls them; as it likes, where nothing is said. */
  toolChoice?: ToolChoice;
  /** The JSON Schema that the reply has to satisfy. */
  schema?: unknown;
  /** Replies that are asked for at once, where it is more than one. */
  takes?: number;
}

/** An HTTP request, up to the address that it goes to. */
export interface WireRequest {
  method: string;
  /** With the query. */
  path: string;
  headers: Record<string, string>;
  /** With a mark in the place of each file; see files.ts. */
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
  const document = body();
  return { ...head, body: profile.requestFor(call.model).isForm ? formOf(document) : JSON.stringify(document) };
}

/** A document as a form (https://url.spec.whatwg.org/#application/x-www-form-urlencoded): lists repeat their name. */
function formOf(document: unknown): string {
  const pairs = Object.entries((document ?? {}) as Record<string, unknown>).flatMap(([name, value]) =>
    (Array.isArray(value) ? value : [value]).map((each) => [name, written(each)]),
  );
  return new URLSearchParams(pairs as [string, string][]).toString();
}

/** The request that a profile makes of a call, its body as a document, and with values that `turn` may change before they are filled in. */
export function fill(
  profile: CompiledProfile,
  call: WireCall,
  turn: (values: Record<string, unknown>) => Record<string, unknown>,
): { head: Omit<WireRequest, "body">; body: () => unknown } {
  const request = profile.requestFor(call.model);
  const plain = valuesOf(profile, call, request.defaults);
  const values = turn(plain);
  const path = String((call.stream ? request.streamPath : request.path)(turn(urlValues(plain))));
  const query = Object.entries((request.query(values) ?? {}) as Record<string, unknown>);
  const head = {
    method: profile.source.request.method,
    path:
      query.length === 0
        ? path
        : `${path}?${query.map(([name, value]) => `${encodeURIComponent(name)}=${inUrl(String(value))}`).join("&")}`,
    headers: (request.headers(values) ?? {}) as Record<string, string>,
  };
  return { head, body: () => request.body(values) };
}

/** What one call that makes vectors is made from. */
export type VectorsCall = Pick<WireCall, "model" | "key" | "values" | "extras"> & { texts: readonly string[] };

/** The request that makes vectors of texts; undefined where a profile names none. */
export function encodeTexts(profile: CompiledProfile, { texts, ...call }: VectorsCall): WireRequest | undefined {
  const { embeddings } = profile;
  if (!embeddings) return undefined;
  const plain = {
    ...valuesOf(profile, { ...call, stream: false, messages: [], settings: {} }, {}),
    texts: texts.map((text) => ({ text })),
  };
  const headers = embeddings.headers ?? profile.requestFor(call.model).headers;
  return {
    method: embeddings.method,
    path: String(embeddings.path(urlValues(plain))),
    headers: (headers(plain) ?? {}) as Record<string, string>,
    body: JSON.stringify(embeddings.body(plain)),
  };
}

/** The headers and the query of a profile's request alone, for calls beside those for a reply. */
export function credentialsOf(
  profile: CompiledProfile,
  key: string | undefined,
  extras: Readonly<Record<string, string>>,
  values: Readonly<Record<string, string>>,
): Pick<WireRequest, "headers" | "path"> {
  const { headers, path } = encode(profile, {
    model: "-",
    key,
    extras,
    values,
    stream: false,
    messages: [],
    settings: {},
  });
  return { headers, path: path.includes("?") ? path.slice(path.indexOf("?")) : "" };
}

/** A call as the values of a template's placeholders. */
function valuesOf(profile: CompiledProfile, call: WireCall, defaults: object): Record<string, unknown> {
  const { roles } = profile.source;
  const { own = {}, ...settings } = call.settings;
  const given = Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined));
  const known = profile.ownSettingsFor(call.model).flatMap((setting) => {
    const value = own[setting.name];
    return value !== undefined && fitsSetting(setting, value) ? [[`own:${setting.name}`, value] as const] : [];
  });
  const { system, messages } = arranged(profile, call);
  const spoken = messages.map((message) => valuesOfMessage(message, roles[message.role]));
  return {
    ...defaults,
    ...given,
    ...Object.fromEntries(known),
    ...named("value", { ...profile.values, ...call.values }),
    ...named("extra", call.extras),
    model: call.model,
    modelPath: call.model,
    key: call.key,
    stream: call.stream,
    takes: call.takes,
    tools: call.tools?.length ? call.tools : undefined,
    ...choiceOf(call),
    system,
    messages: spoken,
    earlier: spoken.slice(0, -1),
    newest: spoken.at(-1),
    schema: call.schema,
    carry: messages.findLast(({ role }) => role === "app")?.carry,
  };
}

/** What a call says of calling tools: `none`, `required`, or `tool` with a name; nothing where the model may do as it likes. */
function choiceOf({ tools = [], toolChoice = "auto" }: WireCall): { toolChoice?: string; chosenTool?: string } {
  if (tools.length === 0 || toolChoice === "auto") return {};
  return typeof toolChoice === "string" ? { toolChoice } : { toolChoice: "tool", chosenTool: toolChoice.name };
}

function named(kind: "value" | "extra", values: Readonly<Record<string, string>> = {}): Record<string, string> {
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [`${kind}:${name}`, value]));
}

/** What a message is as the values of placeholders, its parts each with their own. */
function valuesOfMessage({ parts, carry }: SentMessage, role: string | undefined): Record<string, unknown> {
  const only = parts[0];
  if (parts.length === 1 && only?.kind === "text") return { role, text: only.text, pieces: parts, carry };
  const pieces = parts.map(valuesOfPart);
  const of = (kind: Exclude<SentPart["kind"], "linked">) => {
    const some = pieces.filter((each) => each.kind === kind);
    return some.length === 0 ? undefined : some;
  };
  const results = of("result");
  return {
    role,
    text: parts.map((part) => (part.kind === "text" ? part.text : "")).join(""),
    pieces,
    pictures: of("picture"),
    calls: of("call"),
    results,
    carry,
    // a message that is one answer holds what that holds
    ...(results?.length === 1 && parts.length === 1 ? results[0] : {}),
  };
}

function valuesOfPart(part: SentPart): Record<string, unknown> & { kind: Exclude<SentPart["kind"], "linked"> } {
  switch (part.kind) {
    case "text":
      return part;
    case "picture":
      return { kind: "picture", type: part.type, width: part.width, height: part.height, bytes: fileMark(part.file) };
    case "linked":
      return { kind: "picture", address: part.address };
    case "call": {
      const { call, name, arguments: given } = part.of;
      // APIs want a document, as text too: what was no JSON can't be one, and the answer to it says so
      const document = typeof given === "string" ? {} : given;
      return { kind: "call", call, name, arguments: document, argumentsText: argumentsText(document) };
    }
    case "result":
      return { kind: "result", call: part.of.call, name: part.of.name, result: resultText(part.of) };
  }
}

/** The messages in the order and the roles that the API takes, with the system prompt where it belongs. */
function arranged(
  profile: CompiledProfile,
  { model, messages }: Pick<WireCall, "model" | "messages">,
): { system?: string; messages: SentMessage[] } {
  const { roles } = profile.source;
  const { prompt, merge, begin, goOn, results } = roles;
  const places = profile.placesFor(model);
  let system: string | undefined;
  if (prompt !== "message") system = textsOf(messages, "system").join("\n\n") || undefined;
  let said: SentMessage[] = [];
  for (const message of messages)
    if (message.role !== "system" || prompt === "message")
      for (const each of splitMessage(fittedMessage(message, places), results)) said.push(each);
  if (prompt === "first" && system !== undefined) {
    const first = said.findIndex(({ role }) => role === "visitor");
    const part = { kind: "text", text: `${system}\n\n` } as const;
    said = said.map((each, at) => (at === first ? { ...each, parts: joinedParts([part], each.parts) } : each));
  }
  // where the first message has to be the visitor's, one stands before what the app said
  const opens = said.findIndex(({ role }) => role !== "system");
  if (begin !== "any" && said[opens]?.role !== "visitor" && opens >= 0)
    said = said.toSpliced(opens, 0, { role: "visitor", parts: piecesOf(begin.say) as SentPart[] });
  if (goOn !== "prefix" && said.at(-1)?.role === "app")
    said = [...said, { role: "visitor", parts: piecesOf(goOn.ask) as SentPart[] }];
  return { system, messages: merge ? mergedNeighbours(said, (role) => roles[role]) : said };
}

function textsOf(messages: readonly WireMessage[], role: WireRole): string[] {
  return messages.filter((each) => each.role === role).map(textOf);
}

/** @param called what an API calls a role: answers of tools may go under the name of the visitor */
function mergedNeighbours(messages: SentMessage[], called: (role: SentRole) => string | undefined): SentMessage[] {
  const result: SentMessage[] = [];
  for (const message of messages) {
    const before = result.at(-1);
    if (before && called(before.role) === called(message.role)) {
      const isText = before.parts.at(-1)?.kind === "text" && message.parts[0]?.kind === "text";
      const gap = isText ? [{ kind: "text", text: "\n\n" } as const] : [];
      result[result.length - 1] = { ...message, parts: joinedParts(joinedParts(before.parts, gap), message.parts) };
    } else result.push(message);
  }
  return result;
}

/** Parts one after the other; texts that meet become one. */
function joinedParts(before: readonly SentPart[], after: readonly SentPart[]): SentPart[] {
  const [last, first] = [before.at(-1), after[0]];
  if (last?.kind !== "text" || first?.kind !== "text") return [...before, ...after];
  return [...before.slice(0, -1), { kind: "text", text: last.text + first.text }, ...after.slice(1)];
}

/** Values as they stand in a path; the slashes of a model's name only where the profile says so. */
function urlValues(values: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => {
      if (typeof value !== "string") return [name, value];
      return [name, name === "modelPath" ? value.split("/").map(inUrl).join("/") : inUrl(value)];
    }),
  );
}

/** What stays readable where a request is shown: marks of hidden secrets, and the marks around values that are filled in. */
const readable = /(\uE000[^\uE001]*\uE001|\uE002|•[\w.-]*•+)/;

/** A text percent-encoded, once. */
function inUrl(text: string): string {
  return text
    .split(readable)
    .map((part, at) => (at % 2 === 0 ? percentEncoded(part) : part))
    .join("");
}
