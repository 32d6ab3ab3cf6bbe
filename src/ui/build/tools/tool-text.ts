import { z } from "zod";
import { schemaFault } from "@/core/schema/shape";
import { type Tool, toolSchema } from "@/core/tools/tool";
import { parseJson } from "@/core/wire/json";

/** The text of a tool as it is edited: the tool, or what is wrong with it and where, once it is JSON. */
export type ReadTool = { tool: Tool } | { wrong: string; steps: readonly (string | number)[] | undefined };

/** Reads the text of a tool. */
export function readTool(text: string): ReadTool {
  const value = parseJson(text);
  if (value === undefined) return { wrong: "This is not JSON yet.", steps: undefined };
  const read = toolSchema.safeParse(value);
  if (!read.success) {
    const [issue] = read.error.issues;
    const steps = (issue?.path ?? []).filter((step) => typeof step !== "symbol");
    return { wrong: [steps.join("."), issue?.message ?? "is not as expected"].filter(Boolean).join(" "), steps };
  }
  const wrong = schemaFault(read.data.parameters);
  return wrong === undefined ? { tool: read.data } : { wrong: `parameters: ${wrong}`, steps: ["parameters"] };
}

/** A tool as it is edited. */
export function writeTool(tool: Tool): string {
  return JSON.stringify(tool, null, 2);
}

/** A tool that does not exist yet: the developer answers it. */
export function newTool(name: string, description: string): Tool {
  return { name, description, parameters: { type: "object", properties: {} }, answer: { by: "hand" } };
}

/** What an editor knows of tools. */
export const toolJsonSchema = z.toJSONSchema(toolSchema, { io: "input", unrepresentable: "any" });
