import { z } from "zod";
import { isScriptName, longestScript } from "../checks/script";
import { lookSchema } from "../look/look";
import { limitsSchema } from "../provider/limits";
import { modelSchema } from "../provider/model";
import { type Content, canonical, contentSchema } from "../revision/content";
import { originSchema } from "../sources/origin";
import { mostDocuments } from "../sources/sources";

/** The version of the form of bundles that is written. */
export const bundleVersion = 1;

/** A text in lines, so that two bundles are told apart line by line. */
const lines = (most: number) =>
  z.array(z.string()).refine((each) => each.join("\n").length <= most, `has more than ${most} characters`);

const variable = z.strictObject({ variable: z.string().regex(/^[A-Z_][A-Z0-9_]*$/i) });
/** A secret by the name of its variable: none stands in a bundle itself. */
export type NamedSecret = z.infer<typeof variable>;

const credential = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("none") }),
  z.strictObject({ kind: z.literal("key"), secret: variable }),
  z.strictObject({ kind: z.literal("basic"), user: z.string().max(500), secret: variable }),
  z.strictObject({
    kind: z.literal("token"),
    url: z.string().max(2_000),
    send: z.enum(["form", "json"]),
    body: z.record(z.string(), z.string()),
    id: variable,
    secret: variable,
    token: z.string(),
    expires: z.string().optional(),
  }),
  z.strictObject({ kind: z.literal("command"), command: z.string().max(2_000), keepFor: z.int().min(0).max(86_400) }),
]);

const contentInLines = z.looseObject({ prompt: lines(100_000) });

const bundledProvider = z.strictObject({
  /** The lasting name, by which contents know it. */
  slug: z.string().regex(/^[a-z0-9-]{1,80}$/),
  name: z.string().trim().min(1).max(60),
  address: z.string().max(2_000),
  profile: z.record(z.string(), z.json()),
  credential,
  headers: z.record(z.string(), z.string()),
  extras: z.record(z.string(), variable),
  values: z.record(z.string(), z.string()),
  signing: z.string().max(2_000).nullable(),
  limits: limitsSchema,
  retries: z.int().min(0).max(5),
  atOnce: z.int().min(1).max(1_000).nullable(),
  models: z.array(modelSchema).max(500),
});
export type BundledProvider = z.infer<typeof bundledProvider>;

/** The bytes of a document, in lines where they are text as UTF-8 has it. */
const bundledBytes = z.union([
  z.strictObject({ hash: z.string().length(64), lines: z.array(z.string()) }),
  z.strictObject({ hash: z.string().length(64), base64: z.base64() }),
]);
export type BundledBytes = z.infer<typeof bundledBytes>;

const bundledDocument = z.strictObject({
  title: z.string().min(1).max(200),
  /** Names its passages in marks, and the document in the contents. */
  short: z.string().min(1).max(40),
  origin: originSchema,
  /** The newest first, and those that a content is fixed to. */
  versions: z.array(bundledBytes).min(1),
});
export type BundledDocument = z.infer<typeof bundledDocument>;

const bundleSchema = z.strictObject({
  bundle: z.literal(bundleVersion),
  name: z.string().trim().min(1).max(60),
  live: contentInLines,
  /** Null where it is the live one. */
  draft: contentInLines.nullable(),
  look: lookSchema,
  checks: z
    .array(
      z.strictObject({
        script: z.string().refine(isScriptName, "is no name of a script"),
        lines: lines(longestScript),
      }),
    )
    .max(200),
  providers: z.array(bundledProvider).max(50),
  /** None where nothing is said. */
  documents: z.array(bundledDocument).max(mostDocuments).optional(),
});

/** An app as one file: all that it is made of, and no secret. */
export interface Bundle {
  name: string;
  live: Content;
  draft: Content;
  look: z.infer<typeof lookSchema>;
  scripts: { name: string; text: string }[];
  providers: BundledProvider[];
  documents: BundledDocument[];
}

/** A bundle as its file: the same one has the same bytes. */
export function writeBundle({ name, live, draft, look, scripts, providers, documents }: Bundle): string {
  const [one, other] = [inLines(live), inLines(draft)];
  const file = {
    bundle: bundleVersion,
    name,
    live: one,
    draft: JSON.stringify(one) === JSON.stringify(other) ? null : other,
    look: lookSchema.parse(look),
    checks: scripts.map(({ name: script, text }) => ({ script, lines: text.split("\n") })),
    providers: [...providers].sort((a, b) => (a.slug < b.slug ? -1 : 1)),
    documents: documents.length > 0 ? documents : undefined,
  };
  return `${JSON.stringify(file, null, 2)}\n`;
}

/** A content with its members in order, and its prompt in lines. */
function inLines(content: Content): Record<string, unknown> {
  const { prompt = "", ...rest } = JSON.parse(canonical(content)) as Content;
  return { prompt: prompt.split("\n"), ...rest };
}

/** What a file holds as a bundle; or why it is none, in words. */
export type ReadBundle = { kind: "read"; bundle: Bundle } | { kind: "wrong"; why: string; advice: string };

export function readBundle(text: string): ReadBundle {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    return { kind: "wrong", why: `it is no JSON: ${(error as Error).message}`, advice: "Write it anew: finch export." };
  }
  const version = (value as { bundle?: unknown } | null)?.bundle;
  if (typeof version === "number" && version > bundleVersion)
    return {
      kind: "wrong",
      why: `it is written in version ${version}, and this one reads up to ${bundleVersion}`,
      advice: "Bring Unruly Finch up to date.",
    };
  const read = bundleSchema.safeParse(value);
  if (!read.success) return wrong(read.error, "");
  const { name, look, providers, checks, documents = [] } = read.data;
  const [live, draft] = [read.data.live, read.data.draft ?? read.data.live].map(({ prompt, ...rest }) =>
    contentSchema.safeParse({ prompt: prompt.join("\n"), ...rest }),
  );
  if (!live?.success) return wrong(live?.error, "live");
  if (!draft?.success) return wrong(draft?.error, "draft");
  const scripts = checks.map(({ script, lines }) => ({ name: script, text: lines.join("\n") }));
  return { kind: "read", bundle: { name, live: live.data, draft: draft.data, look, scripts, providers, documents } };
}

function wrong(error: z.ZodError | undefined, within: string): ReadBundle {
  const [issue] = error?.issues ?? [];
  const where = [within, ...(issue?.path ?? [])].filter((each) => each !== "").join(".") || "the whole";
  return {
    kind: "wrong",
    why: `${where}: ${issue?.message ?? "is not as expected"}`,
    advice: "Put that right, or write it anew: finch export.",
  };
}

/** The providers that a content names, by their lasting names. */
export function providersIn({ provider, fallbacks = [], memory, sources, guards = [] }: Content): string[] {
  const summariser = memory.kind === "summary" && memory.by ? [memory.by.provider] : [];
  const vectors = sources?.meaning ? [sources.meaning.provider] : [];
  const judges = guards.flatMap(({ looksFor }) => (looksFor.kind === "judge" ? [looksFor.by.provider] : []));
  return [provider, ...fallbacks.map((each) => each.provider), ...summariser, ...vectors, ...judges];
}
