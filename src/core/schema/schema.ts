import { Ajv2020, type ValidateFunction } from "ajv/dist/2020.js";
import addFormats from "ajv-formats";

/** Where a value does not fit a schema, and why. */
export interface Misfit {
  where: string;
  why: string;
}

/** How the patterns of a schema are tried on texts: a pattern from outside may take for ever. */
export type Patterns = (pattern: string, flags: string) => (text: string) => boolean;

function plainly(source: string, flags: string): (text: string) => boolean {
  const pattern = new RegExp(source, flags);
  return (text) => pattern.test(text);
}

/** Schemas that are kept ready. */
const mostKept = 200;

/** Checks of values by JSON Schemas (2020-12), their formats too. References stay in a schema: nothing is fetched. */
export class Schemas {
  /** Making one takes longer than all else here. */
  private ajv: Ajv2020 | undefined;
  private readonly kept = new Map<string, ValidateFunction>();

  constructor(private readonly patterns: Patterns = plainly) {}

  /** Why a schema is none; undefined where it is one. */
  wrongIn(schema: object | boolean): string | undefined {
    try {
      this.checkFor(schema);
      return undefined;
    } catch (error) {
      return (error as Error).message;
    }
  }

  /** Where a value does not fit; undefined where it does. @throws where the schema is none */
  misfitOf(schema: object | boolean, value: unknown): Misfit | undefined {
    const check = this.checkFor(schema);
    if (check(value)) return undefined;
    const [error] = check.errors ?? [];
    return { where: error?.instancePath || "the whole", why: error?.message ?? "does not fit" };
  }

  private checkFor(schema: object | boolean): ValidateFunction {
    const key = JSON.stringify(schema);
    const known = this.kept.get(key);
    if (known) return known;
    const { patterns } = this;
    this.ajv ??= addFormats(
      new Ajv2020({
        strict: false,
        code: {
          regExp: Object.assign(
            (pattern: string, flags: string) => ({
              test: patterns(pattern, flags),
              // it is told from others by this
              toString: () => `/${pattern}/${flags}`,
            }),
            { code: "patterns" },
          ),
        },
      }),
    );
    try {
      const check = this.ajv.compile(schema);
      if (this.kept.size >= mostKept) this.kept.clear();
      this.kept.set(key, check);
      return check;
    } finally {
      // it would be kept for good, and another of the same name refused
      if (typeof schema === "object") this.ajv.removeSchema(schema);
    }
  }
}

/** Those of whoever has time, or knows the schema: a worker, the bench. */
export const schemas = new Schemas();
