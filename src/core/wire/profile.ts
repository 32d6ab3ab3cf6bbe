import { z } from "zod";
import { endReasons } from "../reply/events";
import { type ProblemKind, problemKinds } from "../reply/problem";
import { compilePath, type Path, PathError } from "./path";
import { compileTemplate, type Template, TemplateError } from "./template";

/** The placeholders that a request template may hold. */
export const placeholders = [
  "model",
  "key",
  "stream",
  "messages",
  "role",
  "text",
  "temperature",
  "topP",
  "maxOutput",
  "stop",
  "seed",
] as const;

const kind = z.enum(problemKinds);

/** One thing to look for in each event of an answer, and what to take from it. All are JSONPaths. */
const rule = z.strictObject({
  text: z.string().optional(),
  thought: z.string().optional(),
  finish: z.string().optional(),
  usage: z
    .strictObject({
      input: z.string().optional(),
      output: z.string().optional(),
      cachedInput: z.string().optional(),
      thought: z.string().optional(),
    })
    .optional(),
});

/** A wire profile: how one provider's HTTP API is spoken, as data. See docs/architecture.md. */
export const profileSchema = z.strictObject({
  profile: z.literal(1),
  /** What the shape of this API is called. */
  shape: z.string().min(1),
  request: z.strictObject({
    method: z.enum(["POST", "PUT", "GET"]),
    path: z.string().startsWith("/"),
    headers: z.record(z.string(), z.string()),
    body: z.json(),
  }),
  /** What this API calls the system prompt, the visitor and the app. */
  roles: z.strictObject({ system: z.string(), visitor: z.string(), app: z.string() }),
  answer: z.strictObject({
    stream: z.strictObject({
      framing: z.literal("sse"),
      rules: z.array(rule).min(1),
      /** The data of the event that ends the stream. */
      sentinel: z.string().optional(),
    }),
    whole: z.strictObject({ rules: z.array(rule).min(1) }),
    problem: z.strictObject({
      /** Where the provider's own words about a failure stand. */
      message: z.string(),
      /** Where a word stands that tells failures apart, and what those words mean. */
      code: z.string().optional(),
      codes: z.record(z.string(), kind).default({}),
      statuses: z.record(z.string().regex(/^[1-5]\d\d$/), kind).default({}),
    }),
  }),
  /** This API's words for why a reply ended, to ours. */
  finishWords: z.record(z.string(), z.enum(endReasons)),
  models: z.strictObject({ path: z.string().startsWith("/"), names: z.string() }),
});

export type WireProfile = z.infer<typeof profileSchema>;

/** A rule with its paths compiled. */
export interface CompiledRule {
  text?: Path;
  thought?: Path;
  finish?: Path;
  usage?: { input?: Path; output?: Path; cachedInput?: Path; thought?: Path };
}

/** A profile made ready for encoding and decoding. */
export interface CompiledProfile {
  source: WireProfile;
  path: Template;
  headers: Template;
  body: Template;
  stream: CompiledRule[];
  whole: CompiledRule[];
  problemMessage: Path;
  problemCode?: Path;
  modelNames: Path;
}

/** Thrown for a profile that is wrong; the message starts with the place. */
export class ProfileError extends Error {}

/**
 * Checks a profile and compiles its templates and paths, once.
 * @throws {ProfileError} such as `answer.stream.rules[2].text: "$.choices[0" is not a JSONPath: …`
 */
export function compileProfile(document: unknown): CompiledProfile {
  const parsed = profileSchema.safeParse(document);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new ProfileError(`${placeOf(issue?.path ?? []) || "profile"}: ${issue?.message ?? "is not a wire profile"}`);
  }
  const source = parsed.data;
  const { request, answer, models } = source;
  return {
    source,
    path: template(request.path, "request.path"),
    headers: template(request.headers, "request.headers"),
    body: template(request.body, "request.body"),
    stream: rules(answer.stream.rules, "answer.stream.rules"),
    whole: rules(answer.whole.rules, "answer.whole.rules"),
    problemMessage: path(answer.problem.message, "answer.problem.message"),
    problemCode: answer.problem.code === undefined ? undefined : path(answer.problem.code, "answer.problem.code"),
    modelNames: path(models.names, "models.names"),
  };
}

/** What a failure is, by the word in its body first and by its HTTP status else. */
export function problemKindOf(profile: CompiledProfile, status: number, document: unknown): ProblemKind {
  const { codes, statuses } = profile.source.answer.problem;
  const code = profile.problemCode?.first(document);
  const named = code === undefined ? undefined : codes[String(code)];
  if (named) return named;
  if (status >= 300 && status < 400) return "misconfigured";
  return statuses[String(status)] ?? (status >= 500 ? "overloaded" : "bad-reply");
}

function rules(sources: z.infer<typeof rule>[], place: string): CompiledRule[] {
  return sources.map((source, at) => {
    const here = `${place}[${at}]`;
    const part = (name: string, text?: string) => (text === undefined ? undefined : path(text, `${here}.${name}`));
    return {
      text: part("text", source.text),
      thought: part("thought", source.thought),
      finish: part("finish", source.finish),
      usage: source.usage && {
        input: part("usage.input", source.usage.input),
        output: part("usage.output", source.usage.output),
        cachedInput: part("usage.cachedInput", source.usage.cachedInput),
        thought: part("usage.thought", source.usage.thought),
      },
    };
  });
}

function path(source: string, place: string): Path {
  try {
    return compilePath(source);
  } catch (error) {
    if (error instanceof PathError) throw new ProfileError(`${place}: ${error.message}`);
    throw error;
  }
}

function template(source: unknown, place: string): Template {
  try {
    return compileTemplate(source, placeholders, place);
  } catch (error) {
    if (error instanceof TemplateError) throw new ProfileError(`${error.place}: ${error.message}`);
    throw error;
  }
}

function placeOf(path: PropertyKey[]): string {
  return path.reduce<string>(
    (place, step) =>
      typeof step === "number" ? `${place}[${step}]` : place ? `${place}.${String(step)}` : String(step),
    "",
  );
}
