import type { Schemas } from "../schema/schema";
import type { AskedCall } from "./calls";
import type { Tool } from "./tool";

/** Why a tool does not take some arguments, in words for the model; undefined where it does. */
export function wrongArguments(
  { name, parameters }: Pick<Tool, "name" | "parameters">,
  given: AskedCall["arguments"],
  schemas: Schemas,
): string | undefined {
  if (typeof given !== "object" || given === null || Array.isArray(given))
    return `The arguments of ${name} are no JSON object.`;
  const misfit = schemas.misfitOf(parameters, given);
  if (!misfit) return undefined;
  const where = misfit.where.startsWith("/") ? misfit.where.slice(1).replaceAll("/", ".") : "the object";
  return `The arguments do not fit the schema of ${name}: ${where} ${misfit.why}.`;
}
