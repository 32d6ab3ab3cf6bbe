import { Ajv2020, type ValidateFunction } from "ajv/dist/2020";

/** Where a value does not fit a schema, and why. */
export interface Misfit {
  where: string;
  why: string;
}

let ajv: Ajv2020 | undefined;
const validators = new Map<string, ValidateFunction>();
/** Schemas that are kept ready. */
const mostValidators = 200;

/** Where a value does not fit a JSON Schema (2020-12); undefined where it does. @throws where that is none */
export function misfitOf(schema: object | boolean, value: unknown): Misfit | undefined {
  const validate = validatorFor(schema);
  if (validate(value)) return undefined;
  const [error] = validate.errors ?? [];
  return { where: error?.instancePath || "the whole", why: error?.message ?? "does not fit" };
}

/** A check by a schema. References stay in it: nothing is fetched. */
function validatorFor(schema: object | boolean): ValidateFunction {
  const key = JSON.stringify(schema);
  const known = validators.get(key);
  if (known) return known;
  ajv ??= new Ajv2020({ strict: false, validateFormats: false });
  try {
    const validate = ajv.compile(schema);
    if (validators.size >= mostValidators) validators.clear();
    validators.set(key, validate);
    return validate;
  } finally {
    if (typeof schema === "object") ajv.removeSchema(schema);
  }
}
