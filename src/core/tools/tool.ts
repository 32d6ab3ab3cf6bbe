import { z } from "zod";

/** Characters that the schema of a tool's arguments may have, and that its answer may have. */
export const longestParameters = 20_000;
export const longestResult = 64 * 1024;

/** What a tool may be called, as models take names. */
export const toolName = /^[A-Za-z_][\w-]{0,63}$/;

/** How a tool is answered. */
const answeredBySchema = z.discriminatedUnion("by", [
  /** Always the same. */
  z.strictObject({ by: z.literal("text"), text: z.string().max(longestResult) }),
  /** By an HTTP address, which gets the arguments: as its query, or as its body in JSON. */
  z.strictObject({
    by: z.literal("address"),
    method: z.enum(["GET", "POST"]).default("POST"),
    url: z.url({ protocol: /^https?$/, error: "is no http or https address" }).max(2_000),
    /** Whether it may lead to this machine. */
    allowsThisMachine: z.literal(true).optional(),
  }),
]);

/** A tool of an app: what a model is told of it, and how it is answered. */
export const toolSchema = z
  .strictObject({
    /** As models take names: letters, digits, hyphens and low lines. */
    name: z.string().regex(toolName, "is no name of a tool: use letters, digits, - and _"),
    description: z.string().trim().min(1).max(2_000),
    /** A JSON Schema (2020-12) of an object: the arguments. */
    parameters: z
      .record(z.string(), z.json())
      .refine((schema) => JSON.stringify(schema).length <= longestParameters, {
        error: `has more than ${longestParameters} characters`,
      })
      .default({ type: "object", properties: {} }),
    answer: answeredBySchema,
    /** Seconds after which it is given up; 20 where nothing is said. */
    seconds: z.number().min(0.05).max(300).optional(),
  })
  .meta({ id: "Tool" });
export type Tool = z.infer<typeof toolSchema>;

/** Seconds that a tool may take that says nothing of it. */
export const usualSeconds = 20;

/** The tools that an app offers, each name once. */
export const toolsSchema = z
  .array(toolSchema)
  .max(64)
  .refine((tools) => new Set(tools.map(({ name }) => name)).size === tools.length, "names a tool twice");

/** Rounds of calls that a reply may take where an app says nothing of it. */
export const usualRounds = 5;

/** A tool as a model is told of it. */
export type Offered = Pick<Tool, "name" | "description" | "parameters">;

/** What of tools a model is told. */
export function offeredOf(tools: readonly Tool[]): Offered[] {
  return tools.map(({ name, description, parameters }) => ({ name, description, parameters }));
}
