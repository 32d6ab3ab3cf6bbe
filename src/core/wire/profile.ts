import type { z } from "zod";
import type { FramingName } from "./framing/framings";
import { isDeeperThan } from "./json";
import type { OwnSetting } from "./own-settings";
import { compilePath, type Path, PathError } from "./path";
import type { PiecePlaces } from "./places";
import {
  type Condition,
  placeholders,
  profileSchema,
  type Rule,
  requestSchema,
  type WireProfile,
} from "./profile-schema";
import type { CompiledTool } from "./reading/calls";
import type { CompiledCondition } from "./reading/condition";
import type { CompiledUsage } from "./reading/counts";
import { type Standing, standingOf } from "./reading/standing";
import type { WaitUnit } from "./reading/wait";
import { compileTemplate, type Template, TemplateError } from "./template";

/** A rule with its paths compiled. */
export interface CompiledRule {
  when?: CompiledCondition;
  raw: boolean;
  each?: Path;
  take?: Path;
  block?: Path;
  remember?: Path;
  text?: Path;
  thought?: Path;
  soFar: boolean;
  tool?: CompiledTool;
  finish?: Path;
  usage?: CompiledUsage;
  carry?: Path;
  version?: Path;
  pictures?: { each: Path; bytes: Path };
  sources?: { each: Path; title?: Path; address?: Path; text?: Path };
}

/** The request of a profile, its templates compiled. */
export interface CompiledRequest {
  path: Template;
  streamPath: Template;
  query: Template;
  headers: Template;
  body: Template;
  /** Whether the body is written as a form. */
  isForm: boolean;
  /** Whether the body holds a key or another secret. */
  hasSecretBody: boolean;
  /** Whether several takes can be asked for at once. */
  hasTakes: boolean;
  /**
   * What it has a place for: pictures, their addresses, calls of tools with their answers, tools that are offered, whether those are to be
   * called, and the schema of the reply.
   */
  has: { pictures: boolean; addresses: boolean; calls: boolean; tools: boolean; choice: boolean; schema: boolean };
  defaults: Record<string, number>;
}

/** A profile made ready for encoding and decoding. */
export interface CompiledProfile {
  source: WireProfile;
  /** The values of its own that have one by themselves. */
  values: Readonly<Record<string, string>>;
  /** The request for a model. */
  requestFor(model: string): CompiledRequest;
  /** The settings of its own that a model has. */
  ownSettingsFor(model: string): readonly OwnSetting[];
  /** What becomes of pieces in that request. */
  placesFor(model: string): PiecePlaces;
  stream?: {
    framing: FramingName;
    types?: string[];
    number?: Path | "id";
    rules: CompiledRule[];
    end: { sentinel?: string; when?: CompiledCondition; close?: boolean };
  };
  whole?: { framing: "json" | "text"; rules: CompiledRule[] };
  /** Whether a rule of the stream reads data as it stands. */
  readsRaw: boolean;
  /** Whether it says what events of the name `error` hold: by that name they report a failure otherwise. */
  readsErrors: boolean;
  /** Where counts stand that may be in headers. */
  headerCounts: readonly CompiledUsage[];
  problem: {
    when?: CompiledCondition;
    message: Standing;
    code?: Standing;
    retryAfter: readonly { standing: Standing; unit: WaitUnit }[];
  };
  limits: { of: string; left: Standing; most?: Standing; resets?: Standing }[];
  embeddings?: {
    method: string;
    path: Template;
    headers?: Template;
    body: Template;
    each: Path;
    vector: Path;
    place?: Path;
    input?: Standing;
  };
  models?: { list: Path; name: Path; isOn?: Path; window?: Path; switchOn?: { path: Template; body: Template } };
}

/** Thrown for a profile that is wrong; the message starts with the place. */
export class ProfileError extends Error {
  /** @param steps where it is, as names and indexes */
  constructor(
    message: string,
    readonly steps: (string | number)[] = [],
  ) {
    super(message);
  }
}

/** The name by which server-sent events report a failure, where an API says nothing else. */
export const errorEvent = "error";

/** Levels that a profile may be nested. */
const deepestProfile = 60;

/**
 * Checks a profile and compiles its templates and paths, once.
 * @throws {ProfileError} such as `answer.stream.rules[2].text: "$.choices[0" is not a JSONPath: …`
 */
export function compileProfile(document: unknown): CompiledProfile {
  if (isDeeperThan(document, deepestProfile))
    throw new ProfileError(`profile: is nested more than ${deepestProfile} levels deep`);
  const parsed = profileSchema.safeParse(document);
  if (!parsed.success) {
    const issue = deepest(parsed.error.issues[0]);
    const steps = (issue?.path ?? []).filter((step) => typeof step !== "symbol");
    throw new ProfileError(`${placeOf(steps) || "profile"}: ${issue?.message ?? "is not a wire profile"}`, steps);
  }
  const source = parsed.data;
  needDeclared(source);
  const { answer } = source;
  const requests = (source.overrides ?? []).map(({ name, request: patch }, at) => {
    const patched = requestSchema.safeParse(merged(source.request, patch));
    if (!patched.success) {
      const steps = ["overrides", at, "request", ...(patched.error.issues[0]?.path ?? [])] as (string | number)[];
      throw new ProfileError(`${placeOf(steps)}: ${patched.error.issues[0]?.message}`, steps);
    }
    return { fits: fitting(name), request: compileRequest(patched.data, ["overrides", at, "request"]) };
  });
  const usual = compileRequest(source.request, ["request"]);
  const streamRules = compileRules(answer.stream?.rules ?? [], ["answer", "stream", "rules"]);
  const wholeRules = compileRules(answer.whole?.rules ?? [], ["answer", "whole", "rules"]);
  const requestFor = (model: string) => requests.find(({ fits }) => fits(model))?.request ?? usual;
  return {
    source,
    values: Object.fromEntries(
      (source.values ?? []).flatMap(({ name, default: value }) => (value === undefined ? [] : [[name, value]])),
    ),
    requestFor,
    ownSettingsFor: ownSettings(source),
    placesFor: (model) => placesOf(requestFor(model), source.pieces),
    stream: answer.stream && {
      ...answer.stream,
      number: answer.stream.number === "id" ? "id" : optionalPath(answer.stream.number, ["answer", "stream", "number"]),
      rules: streamRules,
      end: compileEnd(answer.stream.end),
    },
    whole: answer.whole && {
      framing: answer.whole.framing,
      rules: wholeRules,
    },
    readsRaw: streamRules.some(({ raw }) => raw),
    readsErrors:
      streamRules.some(({ when }) => when?.event === errorEvent) ||
      [answer.problem.when?.event, answer.problem.when?.not?.event].includes(errorEvent),
    headerCounts: [...streamRules, ...wholeRules].flatMap(({ usage }) => usage ?? []),
    problem: {
      when: compileCondition(answer.problem.when, ["answer", "problem", "when"]),
      message: compilePlaces(answer.problem.message, ["answer", "problem", "message"]),
      code: optionalPlaces(answer.problem.code, ["answer", "problem", "code"]),
      retryAfter: [answer.problem.retryAfter ?? []].flat().map(({ unit, ...place }) => ({
        standing: compilePlaces(place, ["answer", "problem", "retryAfter"]),
        unit,
      })),
    },
    limits: (answer.limits ?? []).map(({ of, left, most, resets }, at) => ({
      of,
      left: compilePlaces(left, ["answer", "limits", at, "left"]),
      most: optionalPlaces(most, ["answer", "limits", at, "most"]),
      resets: optionalPlaces(resets, ["answer", "limits", at, "resets"]),
    })),
    embeddings: source.embeddings && compileEmbeddings(source.embeddings),
    models: source.models && compileModels(source.models),
  };
}

function compileEmbeddings(source: NonNullable<WireProfile["embeddings"]>): CompiledProfile["embeddings"] {
  const at = (name: keyof typeof source) => ["embeddings", name];
  return {
    method: source.method,
    path: templateAt(source.path, at("path")),
    headers: source.headers && templateAt(source.headers, at("headers")),
    body: templateAt(source.body, at("body")),
    each: pathAt(source.each, at("each")),
    vector: pathAt(source.vector, at("vector")),
    place: optionalPath(source.place, at("place")),
    input: optionalPlaces(source.input, at("input")),
  };
}

/** Placeholders of what a profile declares itself. */
const declared = { own: "settings", value: "values" } as const;

/** @throws {ProfileError} for a placeholder of a setting or a value that is not declared */
function needDeclared(source: WireProfile): void {
  for (const [, kind, name] of JSON.stringify([source.request, source.overrides, source.embeddings]).matchAll(
    /<(own|value):([\w.-]+)>/g,
  )) {
    const member = declared[kind as keyof typeof declared];
    if (!source[member]?.some((each) => each.name === name))
      throw new ProfileError(`request: <${kind}:${name}> is declared nowhere: name it in ${member}`, ["request"]);
  }
}

/** The settings of a profile's own, by model. */
function ownSettings({ settings = [] }: WireProfile): CompiledProfile["ownSettingsFor"] {
  const fitted = settings.map((each) => ({ each, fits: (each.models ?? ["*"]).map(fitting) }));
  return (model) => fitted.filter(({ fits }) => fits.some((isOne) => isOne(model))).map(({ each }) => each);
}

function placesOf({ has }: CompiledRequest, { picture, tool }: WireProfile["pieces"]): PiecePlaces {
  return {
    picture: has.pictures ? "taken" : picture === "leave-out" ? "left-out" : "refused",
    addresses: has.addresses,
    tool: has.calls ? "taken" : tool === "tell" ? "told" : "refused",
    offersTools: has.tools,
    choosesTools: has.choice,
    takesSchema: has.schema,
  };
}

function compileRequest(source: z.infer<typeof requestSchema>, place: (string | number)[]): CompiledRequest {
  const part = (name: keyof typeof source, other: unknown = source[name]) => templateAt(other, [...place, name]);
  const path = part("path");
  const body = JSON.stringify(source.body) ?? "";
  return {
    path,
    streamPath: source.streamPath === undefined ? path : part("streamPath"),
    query: part("query", source.query ?? {}),
    headers: part("headers"),
    body: source.body === undefined ? () => undefined : part("body"),
    isForm: source.bodyAs === "form",
    hasSecretBody: /<(key|extra:)/.test(body),
    hasTakes: body.includes('"<takes>"'),
    has: {
      addresses: body.includes("<address>"),
      pictures: body.includes("<bytes>") && source.bodyAs === "json",
      calls: /<arguments(?:Text)?>/.test(body) && body.includes("<result>"),
      tools: body.includes('"<each>":"tools"'),
      choice: body.includes('"<toolChoice>"') || body.includes('"<if>":"toolChoice"'),
      schema: body.includes('"<schema>"'),
    },
    defaults: source.defaults ?? {},
  };
}

function compileModels(models: NonNullable<WireProfile["models"]>): CompiledProfile["models"] {
  const { switchOn } = models;
  return {
    list: pathAt(models.list, ["models", "list"]),
    name: pathAt(models.name, ["models", "name"]),
    isOn: optionalPath(models.isOn, ["models", "isOn"]),
    window: optionalPath(models.window, ["models", "window"]),
    switchOn: switchOn && {
      path: templateAt(switchOn.path, ["models", "switchOn", "path"]),
      body: switchOn.body === undefined ? () => undefined : templateAt(switchOn.body, ["models", "switchOn", "body"]),
    },
  };
}

type Steps = readonly (string | number)[];

function compileRules(sources: Rule[], place: Steps): CompiledRule[] {
  return sources.map((source, at) => {
    const here = [...place, at];
    const part = (name: keyof Rule, text: string | undefined) => optionalPath(text, [...here, name]);
    return {
      when: compileCondition(source.when, [...here, "when"]),
      raw: source.raw ?? false,
      each: part("each", source.each),
      take: part("take", source.take),
      block: part("block", source.block),
      remember: part("remember", source.remember),
      text: part("text", source.text),
      thought: part("thought", source.thought),
      soFar: source.soFar ?? false,
      tool: source.tool && compileTool(source.tool, [...here, "tool"]),
      finish: part("finish", source.finish),
      usage: source.usage && compileUsage(source.usage, [...here, "usage"]),
      carry: part("carry", source.carry),
      version: part("version", source.version),
      pictures: source.pictures && {
        each: pathAt(source.pictures.each, [...here, "pictures", "each"]),
        bytes: pathAt(source.pictures.bytes, [...here, "pictures", "bytes"]),
      },
      sources: source.sources && {
        each: pathAt(source.sources.each, [...here, "sources", "each"]),
        title: optionalPath(source.sources.title, [...here, "sources", "title"]),
        address: optionalPath(source.sources.address, [...here, "sources", "address"]),
        text: optionalPath(source.sources.text, [...here, "sources", "text"]),
      },
    };
  });
}

function compileTool({ soFar = false, ...paths }: NonNullable<Rule["tool"]>, place: Steps): CompiledTool {
  const part = (name: keyof typeof paths) => optionalPath(paths[name], [...place, name]);
  return {
    each: part("each"),
    block: part("block"),
    id: part("id"),
    name: part("name"),
    arguments: part("arguments"),
    soFar,
  };
}

function compileUsage(
  { adds = false, cacheIsBeside, ...counts }: NonNullable<Rule["usage"]>,
  place: Steps,
): CompiledUsage {
  const part = (name: keyof typeof counts) => optionalPlaces(counts[name], [...place, name]);
  return {
    adds,
    cacheIsBeside,
    input: part("input"),
    output: part("output"),
    cachedInput: part("cachedInput"),
    cacheWrite: part("cacheWrite"),
    thought: part("thought"),
  };
}

function compileCondition(source: Condition | undefined, place: Steps): CompiledCondition | undefined {
  if (!source) return undefined;
  const { at, is, not, ...rest } = source;
  if (is !== undefined && at === undefined)
    throw new ProfileError(`${placeOf(place)}.is: needs a path beside it, in "at"`, [...place, "is"]);
  return {
    ...rest,
    at: optionalPath(at, [...place, "at"]),
    not: compileCondition(not, [...place, "not"]),
    ...(is === undefined ? {} : { is: Array.isArray(is) ? is : [is] }),
  };
}

function compileEnd(end: NonNullable<WireProfile["answer"]["stream"]>["end"]) {
  if (end === "close") return { close: true };
  if ("sentinel" in end) return end;
  return { when: compileCondition(end.when, ["answer", "stream", "end", "when"]) };
}

type WrittenPlace = { header?: string; at?: string };
type WrittenPlaces = string | WrittenPlace | (string | WrittenPlace)[];

function compilePlaces(source: WrittenPlaces, place: Steps): Standing {
  const compiled = [source].flat().map((each) => {
    const { header, at } = typeof each === "string" ? { header: undefined, at: each } : each;
    if (header === undefined && at === undefined)
      throw new ProfileError(`${placeOf(place)}: names neither a header nor a path`, [...place]);
    return { header: header?.toLowerCase(), at: optionalPath(at, typeof each === "string" ? place : [...place, "at"]) };
  });
  return standingOf(compiled);
}

function optionalPlaces(source: WrittenPlaces | undefined, place: Steps): Standing | undefined {
  return source === undefined ? undefined : compilePlaces(source, place);
}

function optionalPath(source: string | undefined, place: Steps): Path | undefined {
  return source === undefined ? undefined : pathAt(source, place);
}

function pathAt(source: string, place: Steps): Path {
  try {
    return compilePath(source);
  } catch (error) {
    if (error instanceof PathError) throw new ProfileError(`${placeOf(place)}: ${error.message}`, [...place]);
    throw error;
  }
}

function templateAt(source: unknown, place: Steps): Template {
  try {
    return compileTemplate(source, placeholders, placeOf(place));
  } catch (error) {
    if (error instanceof TemplateError)
      throw new ProfileError(`${error.place}: ${error.message}`, stepsIn(error.place) ?? [...place]);
    throw error;
  }
}

/** The place inside a document as names and indexes, from its written form. */
function stepsIn(place: string): (string | number)[] {
  return place.split(/\.|(?=\[)/).map((step) => (/^\[\d+\]$/.test(step) ? Number(step.slice(1, -1)) : step));
}

function placeOf(steps: readonly PropertyKey[]): string {
  return steps.reduce<string>(
    (place, step) =>
      typeof step === "number" ? `${place}[${step}]` : place ? `${place}.${String(step)}` : String(step),
    "",
  );
}

type Issue = z.core.$ZodIssue;

/** What is wrong inside of the form that comes nearest, where several forms are allowed. */
function deepest(issue: Issue | undefined): Issue | undefined {
  if (issue?.code !== "invalid_union") return issue;
  const inner = issue.errors
    .map((each) => each[0])
    .filter((each) => each !== undefined)
    .sort((a, b) => b.path.length - a.path.length)[0];
  return inner && inner.path.length > 0 ? { ...inner, path: [...issue.path, ...inner.path] } : issue;
}

/** A JSON Merge Patch applied, by https://www.rfc-editor.org/rfc/rfc7396. */
function merged(target: unknown, patch: unknown): unknown {
  if (typeof patch !== "object" || patch === null || Array.isArray(patch)) return patch;
  const result: Record<string, unknown> =
    typeof target === "object" && target !== null && !Array.isArray(target) ? { ...target } : {};
  for (const [name, value] of Object.entries(patch))
    if (value === null) delete result[name];
    else result[name] = merged(result[name], value);
  return result;
}

/** Whether a model's name fits one in which `*` stands for any text; in time that grows with their lengths alone. */
function fitting(name: string): (model: string) => boolean {
  const [start = "", ...more] = name.split("*");
  const end = more.pop();
  if (end === undefined) return (model) => model === name;
  return (model) => {
    if (!model.startsWith(start) || !model.slice(start.length).endsWith(end)) return false;
    const inner = model.slice(start.length, model.length - end.length);
    let at = 0;
    for (const part of more) {
      const found = inner.indexOf(part, at);
      if (found < 0) return false;
      at = found + part.length;
    }
    return true;
  };
}
