import type { Asked } from "@/core/revision/variables";

/** What the prompt of an app leaves to its callers, and the values that the page's address gives. */
export interface Asks {
  names: string[];
  given: Record<string, string>;
}

/** Characters that the address or the form may give for one of them. */
export const longestValue = 1_000;

/** What is asked, with those values that a query gives. */
export function asksIn(asked: readonly Asked[], query: Record<string, string | string[] | undefined>): Asks {
  const names = asked.map(({ name }) => name);
  const given = names.flatMap((name): [string, string][] => {
    const value = query[name];
    return typeof value === "string" && value.trim() !== "" ? [[name, value.slice(0, longestValue)]] : [];
  });
  return { names, given: Object.fromEntries(given) };
}

/** The name of a variable as visitors read it: `homePort` is "Home port". */
export function labelOf(name: string): string {
  const words = name
    .replace(/_+/g, " ")
    .replace(/([a-z0-9])([A-Z])/g, "$1 $2")
    .trim()
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
