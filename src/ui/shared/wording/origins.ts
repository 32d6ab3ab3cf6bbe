/** Where something came from, with the name that the front end gives itself: "HTTP · desk-7". */
export function cameFrom({ origin, client }: { origin: string; client: string | null }): string {
  const base = origin === "http" ? "HTTP" : origin;
  return client === null ? base : `${base} · ${client}`;
}
