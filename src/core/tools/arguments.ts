import { Ajv2020, type ValidateFunction } from "ajv/dist/2020";
import type { AskedCall } from "./calls";
import type { Tool } from "./tool";

/** Why the schema of a tool's arguments is none (JSON Schema, 2020-12); undefined where it is one. */
export function wrongSchema({ parameters }: Pick<Tool, "parameters">): string | undefined {
  try {
    validatorFor(parameters);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  }
}

/** Why a tool does not take some arguments, in words for the model; undefined where it does. */
export function wrongArguments(
  tool: Pick<Tool, "name" | "parameters">,
  given: AskedCall["arguments"],
): string | undefined {
  if (typeof given !== "object" || given === null || Array.isArray(given))
    return `The arguments of ${tool.name} are no JSON object.`;
  const validate = validatorFor(tool.parameters);
  if (validate(given)) return undefined;
  const [error] = validate.errors ?? [];
  const where = error?.instancePath ? error.instancePath.slice(1).replaceAll("/", ".") : "the object";
  return `The arguments do not fit the schema of ${tool.name}: ${where} ${error?.message ?? "is not as expected"}.`;
}

/** Making one takes longer than all else here. */
let ajv: Ajv2020 | undefined;
/** Checks by the schemas that they were made from, as long as somebody has those. */
const made = new WeakMap<Tool["parameters"], ValidateFunction>();

/** A check by a schema. References stay in the schema itself: nothing is fetched. */
function validatorFor(parameters: Tool["parameters"]): ValidateFunction {
  const known = made.get(parameters);
  if (known) return known;
  ajv ??= new Ajv2020({ strict: false, validateFormats: false });
  try {
    const validate = ajv.compile(parameters);
    made.set(parameters, validate);
    return validate;
  } finally {
    // it would be kept for good, and another of the same name refused
    ajv.removeSchema(parameters);
  }
}
