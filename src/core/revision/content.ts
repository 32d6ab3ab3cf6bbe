import { z } from "zod";
import { memorySchema } from "../context/policies/policies";
import { guardsSchema } from "../guards/guard";
import { plainSources, sourcesSchema } from "../sources/sources";
import { mostTogether, toolsSchema, usualRounds, usualTogether } from "../tools/tool";
import { replySchemaSchema } from "../typed/schema";
import { ownValueSchema } from "../wire/own-settings";
import { isTimeZone } from "./clock";

/** What a call may set on a model; a value that is not there is left to the provider. */
export const settingsSchema = z
  .strictObject({
    /** How freely words are chosen, 0 to 2. */
    temperature: z.number().min(0).max(2).optional(),
    /** The share of likely words to choose from, above 0 and up to 1. */
    topP: z.number().gt(0).max(1).optional(),
    /** The number of likely words to choose from. */
    topK: z.int().min(1).max(1_000).optional(),
    /** Words at which a reply ends. */
    stop: z.array(z.string().min(1).max(100)).max(8).optional(),
    seed: z
      .int()
      .min(0)
      .max(2 ** 31 - 1)
      .optional(),
    /** Tokens that a reply may have at most. */
    maxOutput: z.int().min(1).max(200_000).optional(),
    /** Settings that the provider's API has of its own, by their names; those that it does not know are not sent. */
    own: z.record(z.string().max(40), ownValueSchema).optional(),
  })
  .meta({ id: "Settings" });
export type Settings = z.infer<typeof settingsSchema>;

/** All that decides how an app behaves, as one document. It is known by the hash of its canonical form. */
export const contentSchema = z.strictObject({
  prompt: z.string().max(100_000),
  /** Blocks of the prompt that are switched off; see blocks.ts. */
  off: z.array(z.string().max(60)).max(100).optional(),
  /** Values of the prompt's variables where a call gives none. */
  variables: z.record(z.string(), z.string().max(10_000)).default({}),
  /** What the bench gives for variables that a call must give. */
  samples: z.record(z.string(), z.string().max(10_000)).optional(),
  /** The time zone of the clock (IANA); UTC where nothing is said. */
  timeZone: z.string().max(60).refine(isTimeZone, "There is no such time zone.").optional(),
  /** Fixed turns before every conversation. */
  opening: z
    .array(z.strictObject({ visitor: z.string().trim().min(1).max(10_000), app: z.string().trim().min(1).max(10_000) }))
    .max(10)
    .optional(),
  /** The lasting name of the provider. */
  provider: z.string(),
  model: z.string(),
  /** Models to go on to, in this order, where one fails before any text. */
  fallbacks: z
    .array(z.strictObject({ provider: z.string(), model: z.string() }))
    .max(5)
    .optional(),
  settings: settingsSchema,
  memory: memorySchema,
  /** The documents that it answers from. */
  sources: sourcesSchema.optional(),
  /** What the model may ask for. */
  tools: toolsSchema.optional(),
  /** Rounds of calls that a reply may take. */
  rounds: z.int().min(1).max(20).optional(),
  /** What the reply has to be, where it is data. */
  schema: replySchemaSchema.optional(),
  /** Rules on what is sent to a model, and on what of its reply is shown. */
  guards: guardsSchema.optional(),
  /** Calls of one round that are made at once. */
  together: z.int().min(1).max(mostTogether).optional(),
});
export type Content = z.infer<typeof contentSchema>;

/** What a member says that is left out. */
const defaults: Partial<Content> = {
  off: [],
  variables: {},
  samples: {},
  timeZone: "UTC",
  opening: [],
  fallbacks: [],
  sources: { documents: [] },
  tools: [],
  guards: [],
  rounds: usualRounds,
  together: usualTogether,
};

/**
 * The canonical form of a content, in which it is stored and hashed: members in the order of their names, and none
 * that says what its absence says. So a member that contents get later changes no hash that there is. Schemas stay as
 * they are: a model writes members in the order in which it is told of them.
 */
export function canonical(content: Content): string {
  const { stop, ...settings } = content.settings;
  const sources = content.sources && plainSources(content.sources);
  const said = Object.entries({ ...content, sources, settings: stop?.length ? { ...settings, stop } : settings });
  return written(Object.fromEntries(said.filter(([name, value]) => !isDefault(name as keyof Content, value))));
}

/** Members that hold schemas: that of the reply, and in tools that of the arguments. */
const schemas = new Set(["schema", "parameters"]);

/** A content, or its tools, with members in the order of their names, but for those of schemas. */
function written(value: object): string {
  const members = Object.entries(value)
    .filter(([, each]) => each !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, each]) => {
      const isTools = name === "tools" && Array.isArray(each);
      const text = schemas.has(name) ? JSON.stringify(each) : isTools ? `[${each.map(written)}]` : ordered(each);
      return `${JSON.stringify(name)}:${text}`;
    });
  return `{${members}}`;
}

function isDefault(name: keyof Content, value: unknown): boolean {
  return name in defaults && ordered(value) === ordered(defaults[name]);
}

/** JSON with the members of each object in the order of their names. */
export function ordered(value: unknown): string {
  return JSON.stringify(value, (_name, value: unknown) =>
    value !== null && typeof value === "object" && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );
}

/** Whether two contents behave the same. */
export function sameContent(a: Content, b: Content): boolean {
  return canonical(a) === canonical(b);
}
