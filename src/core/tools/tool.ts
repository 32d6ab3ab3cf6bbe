import { z } from "zod";

/** Characters that the schema of a tool's arguments may have, and that its answer may have. */
export const longestParameters = 20_000;
export const longestResult = 64 * 1024;

/** A field of HTTP (RFC 9110, 5). */
const headerName = z.string().regex(/^[!#$%&'*+.^_`|~\w-]{1,200}$/, "is not the name of a header");
const headerValue = z
  .string()
  .max(4_000)
  .regex(/^[\t\x20-\x7e\x80-\xff]*$/, "holds a line break or a character that no header can carry");

/** What a tool may be called, as models take names. */
export const toolName = /^[A-Za-z_][\w-]{0,63}$/;

/** Who answers a tool: the app itself, an address, a command, the developer or the caller. */
export const answerers = ["text", "table", "address", "command", "hand", "caller"] as const;
export type Answerer = (typeof answerers)[number];

/** How a tool is answered. */
const answeredBySchema = z.discriminatedUnion("by", [
  /** Always the same. */
  z.strictObject({ by: z.literal("text"), text: z.string().max(longestResult) }),
  /** By the first row whose arguments are all those of the call; other arguments may be anything. */
  z.strictObject({
    by: z.literal("table"),
    rows: z
      .array(z.strictObject({ when: z.record(z.string(), z.json()), text: z.string().max(longestResult) }))
      .min(1)
      .max(200),
    /** What is said where no row fits; that there is none, where nothing is said. */
    otherwise: z.string().max(longestResult).optional(),
  }),
  /** By an HTTP address, which is filled from the arguments; see filling.ts. */
  z.strictObject({
    by: z.literal("address"),
    method: z.enum(["GET", "POST", "PUT", "PATCH", "DELETE"]).default("POST"),
    url: z
      .url({ protocol: /^https?$/, error: "is no http or https address" })
      .max(2_000)
      .refine((url) => !new URL(url).host.includes("{"), "has an argument in its host"),
    body: z.json().optional(),
    /** A secret in them stands by the name of its variable: `$QUAY_KEY`. */
    headers: z
      .array(z.strictObject({ name: headerName, value: headerValue }))
      .max(20)
      .optional(),
    /** Whether it may lead to this machine. */
    allowsThisMachine: z.literal(true).optional(),
  }),
  /** By a command of the developer's, which gets the call as JSON on its input, where commands are switched on. */
  z.strictObject({ by: z.literal("command"), command: z.string().trim().min(1).max(2_000) }),
  /** By the developer, in the bench: the reply waits. */
  z.strictObject({ by: z.literal("hand") }),
  /** By whoever asked for the reply, over HTTP: it waits for them. */
  z.strictObject({ by: z.literal("caller") }),
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
    /** Whether whoever is answered is asked before it is called. */
    asks: z.literal(true).optional(),
    /** Seconds after which it is given up; 20 where nothing is said. */
    seconds: z.number().min(0.05).max(300).optional(),
  })
  .meta({ id: "Tool" });
export type Tool = z.infer<typeof toolSchema>;

/** A tool that a caller brings along with a question, and answers itself. */
export const broughtToolSchema = toolSchema
  .pick({ name: true, parameters: true })
  .extend({
    /** What the model is told of it; its name, where nothing is said. */
    description: z.string().trim().max(2_000).optional(),
  })
  .meta({ id: "BroughtTool" });
export type BroughtTool = z.infer<typeof broughtToolSchema>;

/** Whether a model calls tools: as it likes, not at all, one of them in any case, or this one. */
export const toolChoiceSchema = z.union([
  z.enum(["auto", "none", "required"]),
  z.strictObject({ name: z.string().regex(toolName) }),
]);
export type ToolChoice = z.infer<typeof toolChoiceSchema>;

/** Seconds that a tool may take that says nothing of it. */
export const usualSeconds = 20;

/** The tools that an app offers, each name once; and how many those are at most. */
export const mostTools = 64;
export const toolsSchema = z
  .array(toolSchema)
  .max(mostTools)
  .refine((tools) => new Set(tools.map(({ name }) => name)).size === tools.length, "names a tool twice");

/** Rounds of calls that a reply may take where an app says nothing of it, and calls of one round that are made at once. */
export const usualRounds = 5;
export const usualTogether = 1;
export const mostTogether = 8;

/** Seconds that a call waits for a person. */
export const patience = 15 * 60;

/** A tool as a model is told of it. */
export type Offered = Pick<Tool, "name" | "description" | "parameters">;

/** What of tools a model is told. */
export function offeredOf(tools: readonly Tool[]): Offered[] {
  return tools.map(({ name, description, parameters }) => ({ name, description, parameters }));
}
