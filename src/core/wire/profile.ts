import { z } from "zod";
import { endReasons } from "../reply/events";
import { problemKinds } from "../reply/problem";
import { compilePath, type Path, PathError } from "./path";
import { compileTemplate, type Template, TemplateError } from "./template";

/** The placeholders that a request template may hold. */
export const placeholders = [
  "model",
  "key",
  "stream",
  "system",
  "messages",
  "role",
  "text",
  "pieces",
  "temperature",
  "topP",
  "topK",
  "maxOutput",
  "stop",
  "seed",
  "takes",
  "tools",
  "schema",
  "carry",
] as const;

/** The ways in which a stream is cut into events. */
export const framings = ["sse", "ndjson", "array", "json", "text"] as const;
export type FramingName = (typeof framings)[number];

const kind = z.enum(problemKinds);
const path = z.string().describe("A JSONPath: from $, the document, or from @, the element that the rule goes through");
const scalar = z.union([z.string(), z.number(), z.boolean(), z.null()]);
const template = z.json();

const condition = z
  .strictObject({
    event: z.string().optional().describe("The name of the event"),
    at: path.optional().describe("A path at which something has to stand"),
    is: z
      .union([scalar, z.array(scalar).min(1)])
      .optional()
      .describe("The value that has to stand there, or a list of values of which one has to"),
    remembered: z.string().optional().describe("The word that was remembered for this block"),
  })
  .describe("All that it names has to hold");

const rule = z
  .strictObject({
    when: condition.optional(),
    each: path.optional().describe("Goes through every value at this path; paths that begin with @ start there"),
    take: path.optional().describe("Which take of the reply this belongs to, counted from 0"),
    block: path.optional().describe("Which block of the take this belongs to"),
    remember: path.optional().describe("A word to remember for the block, for conditions of later events"),
    text: path.optional().describe("Text of the reply; several values are joined"),
    thought: path.optional().describe("Reasoning that is shown apart from the reply"),
    soFar: z.boolean().optional().describe("Whether text and thought hold all so far, instead of what is new"),
    tool: z
      .strictObject({
        id: path.optional(),
        name: path.optional(),
        arguments: path.optional().describe("A fragment of the arguments' JSON, or the arguments as a value"),
      })
      .optional()
      .describe("A tool call"),
    finish: path.optional().describe("This API's word for why the reply ended"),
    usage: z
      .strictObject({
        input: path.optional(),
        output: path.optional(),
        cachedInput: path.optional(),
        thought: path.optional(),
        adds: z.boolean().optional().describe("Whether counts of several events are added up; else the last counts"),
      })
      .optional(),
    carry: path.optional().describe("A value that goes back to the API with the next call, as <carry>"),
  })
  .describe("What to look for in an event or a whole answer, and what to take from it");

const place = z
  .strictObject({ header: z.string().optional(), at: path.optional() })
  .describe("A header of the answer by its name, or a path in its body");

const request = z.strictObject({
  method: z.enum(["POST", "PUT", "GET"]),
  path: z.string().startsWith("/").describe("Joined to the provider's address; values in it are percent-encoded"),
  streamPath: z.string().startsWith("/").optional().describe("The path when streaming, where it is another"),
  query: z.record(z.string(), z.string()).optional(),
  headers: z.record(z.string(), z.string()),
  body: template.optional(),
  defaults: z
    .strictObject({
      temperature: z.number().optional(),
      topP: z.number().optional(),
      topK: z.number().optional(),
      maxOutput: z.int().optional(),
      seed: z.int().optional(),
    })
    .optional()
    .describe("Settings that this API can't do without, for apps that set none"),
});

const override = z.strictObject({
  name: z.string().describe("A model's name; * stands for any text"),
  request: z.record(z.string(), z.json()).describe("A JSON Merge Patch (RFC 7396) of the request"),
});

/** A wire profile: how one provider's HTTP API is spoken, as data. See docs/wire-profiles.md. */
export const profileSchema = z.strictObject({
  $schema: z.string().optional(),
  profile: z.literal(1),
  shape: z.string().min(1).describe("What the shape of this API is called"),
  request: request.describe("The request, as templates"),
  models: z
    .strictObject({
      path: z.string().startsWith("/"),
      list: path.describe("Every model"),
      name: path.describe("Its name, from @"),
      isOn: path.optional().describe("Whether it is switched on, from @"),
      window: path.optional().describe("The tokens of its context window, from @"),
      switchOn: z
        .strictObject({
          method: z.enum(["POST", "PUT", "PATCH"]),
          path: z.string().startsWith("/"),
          body: template.optional(),
        })
        .optional()
        .describe("The call that switches a model on"),
    })
    .optional()
    .describe("Where the models are listed"),
  overrides: z.array(override).optional().describe("What is different for some models; the first that fits counts"),
  roles: z
    .strictObject({
      system: z.string().optional(),
      visitor: z.string(),
      app: z.string(),
      tool: z.string().optional(),
      prompt: z
        .enum(["message", "field", "first"])
        .default("message")
        .describe("How the system prompt goes: a first message, <system>, or before the first visitor's message"),
      merge: z.boolean().default(false).describe("Whether neighbours of one role are made one message"),
      goOn: z
        .union([z.literal("prefix"), z.strictObject({ ask: z.string().min(1) })])
        .default("prefix")
        .describe("How a reply is gone on with: from its beginning as the last message, or by asking for it"),
    })
    .refine(({ prompt, system }) => prompt !== "message" || system !== undefined, {
      error: "is missing: the prompt goes as a message, and a message has a role",
      path: ["system"],
    })
    .describe("What this API calls those who speak"),
  answer: z
    .strictObject({
      stream: z
        .strictObject({
          framing: z.enum(framings),
          types: z.array(z.string()).optional().describe("Content types of the stream, where they are unusual"),
          number: path.optional().describe("A number that counts the events up; one that was seen is left out"),
          rules: z.array(rule).default([]),
          end: z
            .union([
              z.literal("close"),
              z.strictObject({ sentinel: z.string().min(1).describe("The data of the event that ends the stream") }),
              z.strictObject({ when: condition }),
            ])
            .describe("What ends the stream"),
        })
        .optional(),
      whole: z
        .strictObject({ framing: z.enum(["json", "text"]).default("json"), rules: z.array(rule).default([]) })
        .optional(),
      problem: z.strictObject({
        when: condition.optional().describe("What makes an answer an error; else that its message is there"),
        message: path.describe("The provider's own words about a failure"),
        code: path.optional().describe("A word that tells failures apart"),
        codes: z.record(z.string(), kind).default({}),
        statuses: z.record(z.string().regex(/^[1-5]\d\d$/, "is not an HTTP status"), kind).default({}),
        retryAfter: place
          .extend({ unit: z.enum(["s", "ms"]).default("s") })
          .optional()
          .describe("How long to wait before another try, beside the Retry-After header"),
      }),
      limits: z
        .array(z.strictObject({ of: z.string(), left: place, most: place.optional(), resets: place.optional() }))
        .optional()
        .describe("Rate limits: what of, how much is left, the most, and when it starts anew"),
    })
    .refine(({ stream, whole }) => stream || whole, "has neither stream nor whole"),
  finishWords: z
    .record(z.string(), z.enum(endReasons))
    .describe("This API's words for why a reply ended, to ours; * stands for any other word"),
});

export type WireProfile = z.infer<typeof profileSchema>;
/** A profile as it is written, before what it leaves out is filled in. */
export type WrittenProfile = z.input<typeof profileSchema>;
export type Rule = z.infer<typeof rule>;
type Condition = z.infer<typeof condition>;

/** The JSON Schema (2020-12) of a wire profile. */
export function profileJsonSchema(): object {
  return z.toJSONSchema(profileSchema, { io: "input" });
}

/** A condition with its path compiled. */
export interface CompiledCondition {
  event?: string;
  at?: Path;
  is?: readonly unknown[];
  remembered?: string;
}

/** A rule with its paths compiled. */
export interface CompiledRule {
  when?: CompiledCondition;
  each?: Path;
  take?: Path;
  block?: Path;
  remember?: Path;
  text?: Path;
  thought?: Path;
  soFar: boolean;
  tool?: { id?: Path; name?: Path; arguments?: Path };
  finish?: Path;
  usage?: { adds: boolean; input?: Path; output?: Path; cachedInput?: Path; thought?: Path };
  carry?: Path;
}

/** The request of a profile, its templates compiled. */
export interface CompiledRequest {
  path: Template;
  streamPath: Template;
  query: Template;
  headers: Template;
  body: Template;
  defaults: Record<string, number>;
}

/** A header's name or a path. */
export interface CompiledPlace {
  header?: string;
  at?: Path;
}

/** A profile made ready for encoding and decoding. */
export interface CompiledProfile {
  source: WireProfile;
  /** The request for a model. */
  requestFor(model: string): CompiledRequest;
  stream?: {
    framing: FramingName;
    types?: string[];
    number?: Path;
    rules: CompiledRule[];
    end: { sentinel?: string; when?: CompiledCondition; close?: boolean };
  };
  whole?: { framing: "json" | "text"; rules: CompiledRule[] };
  problem: { when?: CompiledCondition; message: Path; code?: Path; retryAfter?: CompiledPlace & { unit: "s" | "ms" } };
  limits: { of: string; left: CompiledPlace; most?: CompiledPlace; resets?: CompiledPlace }[];
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

/**
 * Checks a profile and compiles its templates and paths, once.
 * @throws {ProfileError} such as `answer.stream.rules[2].text: "$.choices[0" is not a JSONPath: …`
 */
export function compileProfile(document: unknown): CompiledProfile {
  const parsed = profileSchema.safeParse(document);
  if (!parsed.success) {
    const issue = deepest(parsed.error.issues[0]);
    const steps = (issue?.path ?? []).filter((step) => typeof step !== "symbol");
    throw new ProfileError(`${placeOf(steps) || "profile"}: ${issue?.message ?? "is not a wire profile"}`, steps);
  }
  const source = parsed.data;
  const { answer } = source;
  const requests = (source.overrides ?? []).map(({ name, request: patch }, at) => {
    const patched = request.safeParse(merged(source.request, patch));
    if (!patched.success) {
      const steps = ["overrides", at, "request", ...(patched.error.issues[0]?.path ?? [])] as (string | number)[];
      throw new ProfileError(`${placeOf(steps)}: ${patched.error.issues[0]?.message}`, steps);
    }
    return { fits: wildcard(name), request: compileRequest(patched.data, ["overrides", at, "request"]) };
  });
  const usual = compileRequest(source.request, ["request"]);
  return {
    source,
    requestFor: (model) => requests.find(({ fits }) => fits.test(model))?.request ?? usual,
    stream: answer.stream && {
      ...answer.stream,
      number: optionalPath(answer.stream.number, ["answer", "stream", "number"]),
      rules: compileRules(answer.stream.rules, ["answer", "stream", "rules"]),
      end: compileEnd(answer.stream.end),
    },
    whole: answer.whole && {
      framing: answer.whole.framing,
      rules: compileRules(answer.whole.rules, ["answer", "whole", "rules"]),
    },
    problem: {
      when: compileCondition(answer.problem.when, ["answer", "problem", "when"]),
      message: pathAt(answer.problem.message, ["answer", "problem", "message"]),
      code: optionalPath(answer.problem.code, ["answer", "problem", "code"]),
      retryAfter: answer.problem.retryAfter && {
        ...compilePlace(answer.problem.retryAfter, ["answer", "problem", "retryAfter"]),
        unit: answer.problem.retryAfter.unit,
      },
    },
    limits: (answer.limits ?? []).map(({ of, left, most, resets }, at) => ({
      of,
      left: compilePlace(left, ["answer", "limits", at, "left"]),
      most: most && compilePlace(most, ["answer", "limits", at, "most"]),
      resets: resets && compilePlace(resets, ["answer", "limits", at, "resets"]),
    })),
    models: source.models && compileModels(source.models),
  };
}

function compileRequest(source: z.infer<typeof request>, place: (string | number)[]): CompiledRequest {
  const part = (name: keyof typeof source, other: unknown = source[name]) => templateAt(other, [...place, name]);
  const path = part("path");
  return {
    path,
    streamPath: source.streamPath === undefined ? path : part("streamPath"),
    query: part("query", source.query ?? {}),
    headers: part("headers"),
    body: source.body === undefined ? () => undefined : part("body"),
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
    const inside = (outer: string, parts: Record<string, unknown>) =>
      Object.fromEntries(
        Object.entries(parts).map(([name, text]) => [
          name,
          typeof text === "string" ? pathAt(text, [...here, outer, name]) : text,
        ]),
      );
    return {
      when: compileCondition(source.when, [...here, "when"]),
      each: part("each", source.each),
      take: part("take", source.take),
      block: part("block", source.block),
      remember: part("remember", source.remember),
      text: part("text", source.text),
      thought: part("thought", source.thought),
      soFar: source.soFar ?? false,
      tool: source.tool && inside("tool", source.tool),
      finish: part("finish", source.finish),
      usage: source.usage && { adds: false, ...inside("usage", source.usage) },
      carry: part("carry", source.carry),
    };
  });
}

function compileCondition(source: Condition | undefined, place: Steps): CompiledCondition | undefined {
  if (!source) return undefined;
  const { at, is, ...rest } = source;
  if (is !== undefined && at === undefined)
    throw new ProfileError(`${placeOf(place)}.is: needs a path beside it, in "at"`, [...place, "is"]);
  return {
    ...rest,
    at: optionalPath(at, [...place, "at"]),
    ...(is === undefined ? {} : { is: Array.isArray(is) ? is : [is] }),
  };
}

function compileEnd(end: NonNullable<WireProfile["answer"]["stream"]>["end"]) {
  if (end === "close") return { close: true };
  if ("sentinel" in end) return end;
  return { when: compileCondition(end.when, ["answer", "stream", "end", "when"]) };
}

function compilePlace(source: { header?: string; at?: string }, place: Steps): CompiledPlace {
  return { header: source.header?.toLowerCase(), at: optionalPath(source.at, [...place, "at"]) };
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

function wildcard(name: string): RegExp {
  return new RegExp(`^${name.replace(/[.+?^${}()|[\]\\]/g, "\\$&").replaceAll("*", ".*")}$`);
}
