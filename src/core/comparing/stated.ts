import { type Fact, factKey } from "./facts/facts";

/** A fact and the lanes that state it. */
export interface Stated {
  /** Its value, with `not` before one that is denied, and what it is about where that tells it from another. */
  key: string;
  /** As the first lane says it. */
  fact: Fact;
  /** Where each lane states it; nothing where it does not. */
  places: readonly (readonly Fact[])[];
  /** Whether the question says it already. */
  isAsked: boolean;
}

/**
 * The facts of several lanes: those that all of them state, and those that not all do, in the order in which they are
 * first said; what the question says already comes last.
 * @param lanes the facts of each; undefined for one that said nothing, which counts for neither
 */
export function statedIn(
  lanes: readonly (readonly Fact[] | undefined)[],
  question: readonly Fact[],
): { shared: Stated[]; differing: Stated[] } {
  const asked = new Set(question.map(factKey));
  const rows = new Map<string, { fact: Fact; places: Fact[][] }>();
  const told = toldApart(lanes);
  for (const [lane, facts] of lanes.entries())
    for (const fact of facts ?? []) {
      const plain = factKey(fact);
      const key = told.has(plain) && fact.about !== undefined ? `${plain} · ${normal(fact.about)}` : plain;
      const row = rows.get(key) ?? { fact, places: lanes.map(() => []) };
      row.places[lane]?.push(fact);
      rows.set(key, row);
    }
  const all = [...rows].map(([key, row]): Stated => ({ key, ...row, isAsked: asked.has(factKey(row.fact)) }));
  const isShared = ({ places }: Stated) => lanes.every((facts, lane) => !facts || (places[lane]?.length ?? 0) > 0);
  const differing = all.filter((row) => !isShared(row));
  return {
    shared: all.filter(isShared),
    differing: [...differing.filter(({ isAsked }) => !isAsked), ...differing.filter(({ isAsked }) => isAsked)],
  };
}

/** The figures and amounts that are said of several things, and each time of one: "four on the 8:10" is not "four on the 9:40". */
function toldApart(lanes: readonly (readonly Fact[] | undefined)[]): ReadonlySet<string> {
  const abouts = new Map<string, Set<string | undefined>>();
  for (const fact of lanes.flatMap((facts) => facts ?? [])) {
    if (fact.kind !== "figure" && fact.kind !== "amount") continue;
    const key = factKey(fact);
    abouts.set(key, (abouts.get(key) ?? new Set()).add(fact.about && normal(fact.about)));
  }
  return new Set([...abouts].flatMap(([key, of]) => (of.size > 1 && !of.has(undefined) ? [key] : [])));
}

function normal(about: string): string {
  return about
    .toLowerCase()
    .replace(/\s+/g, " ")
    .replace(/^0(?=\d)/, "");
}
