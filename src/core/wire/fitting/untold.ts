import { excerpt, written } from "../json";
import { pathTo } from "../path";
import { at, type Leaf, leavesOf, type Notes, type Steps } from "./finding";
import { isTaken } from "./talk";

/** What the developer can say of a part that was taken for nothing. */
export const untoldChoices = ["it stays as it is", "it is left out"] as const;

/** The id of what can be said of the part at a place. */
export function untoldId(where: string): string {
  return `untold ${where}`;
}

/**
 * Lists all of a body that no profile fills, each member at its top as one where nothing in it is filled; what the
 * developer wants left out is taken out.
 */
export function listUntold(document: unknown, taken: ReadonlySet<string>, notes: Notes): void {
  // what may be the model's name is asked about already
  const asked = new Set(notes.questions.flatMap(({ id, choices = [] }) => (id === "model" ? choices : [])));
  const left = leavesAndEmpty(document).filter(
    ({ steps, value }) => steps.length > 0 && !isTaken(steps, taken) && !asked.has(String(value)),
  );
  const seen = new Set<string>();
  for (const { steps } of left) {
    const top = steps.slice(0, 1);
    const isWhole = leavesAndEmpty(at(document, top), top).every((each) => !isTaken(each.steps, taken));
    const part = isWhole ? top : steps;
    const where = pathTo(part);
    if (seen.has(where)) continue;
    seen.add(where);
    if (notes.said(untoldId(where)) === untoldChoices[1]) takeOut(document, part);
    notes.untold.push({ where, found: excerpt(written(at(document, part) ?? "(left out)")) });
  }
}

/** All leaves, and lists and objects that hold nothing. */
function leavesAndEmpty(document: unknown, steps: Steps = []): { steps: Steps; value?: Leaf["value"] }[] {
  if (typeof document !== "object" || document === null) return leavesOf(document, steps);
  const entries: [string | number, unknown][] = Array.isArray(document)
    ? document.map((each, place) => [place, each])
    : Object.entries(document);
  if (entries.length === 0) return [{ steps }];
  return entries.flatMap(([name, each]) => leavesAndEmpty(each, [...steps, name]));
}

function takeOut(document: unknown, steps: Steps): void {
  const owner = at(document, steps.slice(0, -1)) as Record<string | number, unknown>;
  const last = steps.at(-1) as string | number;
  if (Array.isArray(owner)) owner.splice(Number(last), 1);
  else delete owner[last];
}
