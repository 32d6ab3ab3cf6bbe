/** The most tokens that one count may be. What is beyond it was not counted but made up. */
export const mostTokens = 1_000_000_000;

/** A count of tokens as a provider gives it, as a number or as text; undefined where it is no whole number from 0 to `mostTokens`. */
export function countIn(value: unknown): number | undefined {
  const count = typeof value === "string" && /^\d{1,10}$/.test(value) ? Number(value) : value;
  return typeof count === "number" && Number.isSafeInteger(count) && count >= 0 && count <= mostTokens
    ? count
    : undefined;
}
