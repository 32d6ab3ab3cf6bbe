import type { Tool } from "./tool";

/** The name of a secret, as it stands in a header of a tool after a `$`. */
export const secretName = /^[A-Za-z_]\w{0,63}$/;

const named = /\$([A-Za-z_]\w{0,63})/g;

/** The secrets that the headers of tools name, each once, in order. */
export function secretsIn(tools: readonly Tool[]): string[] {
  const values = tools.flatMap(({ answer }) => (answer.by === "address" ? (answer.headers ?? []) : []));
  return [...new Set(values.flatMap(({ value }) => [...value.matchAll(named)].map(([, name = ""]) => name)))];
}

/** The value of a header, with the secrets that it names. */
export function withSecrets(value: string, secretOf: (name: string) => string): string {
  return value.replace(named, (_, name: string) => secretOf(name));
}
