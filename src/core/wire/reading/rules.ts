import type { CompiledRule } from "../profile";

/** Rules of a profile by the names of events that they are for. */
interface Sorted {
  /** Those that are for events of any name. */
  unnamed: readonly CompiledRule[];
  byName: ReadonlyMap<string, readonly CompiledRule[]>;
}

const known = new WeakMap<readonly CompiledRule[], Sorted>();

/** The rules that may take something of an event by its name, in their order: the others need not be tried. */
export function rulesFor(rules: readonly CompiledRule[], name: string): readonly CompiledRule[] {
  let sorted = known.get(rules);
  if (!sorted) {
    sorted = sortedOf(rules);
    known.set(rules, sorted);
  }
  return sorted.byName.get(name) ?? sorted.unnamed;
}

function sortedOf(rules: readonly CompiledRule[]): Sorted {
  const nameOf = ({ when }: CompiledRule) => when?.event;
  const names = new Set(rules.flatMap((rule) => nameOf(rule) ?? []));
  const isFor = (name: string | undefined) => (rule: CompiledRule) =>
    nameOf(rule) === undefined || nameOf(rule) === name;
  return {
    unnamed: rules.filter(isFor(undefined)),
    byName: new Map([...names].map((name) => [name, rules.filter(isFor(name))])),
  };
}
