import { type Problem, problem } from "@/core/problem/problem";
import { valuesIn } from "@/core/provider/address";
import { keyFrom } from "../security/keys";
import type { Connection } from "./connection";

const variable = /\$\{?([A-Z_][A-Z0-9_]*)\}?/gi;

/** The values of a provider's own: as they are set, variables read, and else as its profile has them. They are no secrets. */
export function ownValues(provider: Pick<Connection, "values" | "profile">): Record<string, string> {
  const given = Object.entries(provider.values).flatMap(([name, text]) => {
    const value = text.replace(variable, (_all, named: string) => keyFrom(named) ?? "");
    return value === "" ? [] : [[name, value] as const];
  });
  return { ...provider.profile.values, ...Object.fromEntries(given) };
}

/** What is missing of the values that a provider's address and profile name; undefined where nothing is. */
export function missingValue(provider: Connection, values: Readonly<Record<string, string>>): Problem | undefined {
  const named = [...valuesIn(provider.address), ...(provider.profile.source.values ?? []).map(({ name }) => name)];
  const missing = named.find((name) => values[name] === undefined);
  if (missing === undefined) return undefined;
  const written = provider.values[missing];
  return problem(
    "misconfigured",
    written
      ? `The value ${missing} of ${provider.name} is ${written}, and that variable is not set.`
      : `The value ${missing} of ${provider.name} is not set.`,
    { advice: "Set it beside the address, on the Providers page." },
  );
}
