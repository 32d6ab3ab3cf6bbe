import { parseShallow } from "../json";
import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, type FittedTexts, type Leaf, type Notes, type Steps, same, wordsIn } from "./finding";
import { isCalled, lastName, names } from "./naming";

/**
 * Streams whose events belong to numbered slots, each of which said at its opening what it holds:
 * `{"open": 1, "as": "talk"}`, then fragments that only give the number.
 */
export function fitSlots(events: Event[], notes: Notes): FittedTexts | undefined {
  const kind = ["kind", "type", "event", "sort"].find((name) =>
    events.every(
      ({ leaves }) => typeof leaves.find(({ steps }) => steps.length === 1 && steps[0] === name)?.value === "string",
    ),
  );
  if (!kind) return undefined;
  const kindAt = ({ leaves }: Event) => String(leaves.find(({ steps }) => same(steps, [kind]))?.value);
  const slotted = events.filter(({ leaves }) =>
    leaves.some(({ steps, value }) => steps.length === 1 && steps[0] !== kind && Number.isInteger(value)),
  );
  const slot =
    slotted.length >= 3
      ? slotted[0]?.leaves.find(({ steps, value }) => steps.length === 1 && Number.isInteger(value))?.steps
      : undefined;
  if (!slot) return undefined;
  const number = ({ leaves }: Event) => leaves.find(({ steps }) => same(steps, slot))?.value;
  const openings = slotted.filter((event, at) => slotted.findIndex((each) => number(each) === number(event)) === at);
  const opened = kindAt(openings[0] as Event);
  if (openings.length < 2 || openings.some((each) => kindAt(each) !== opened)) return undefined;
  const word = openings[0]?.leaves.find(
    ({ steps, value }) =>
      typeof value === "string" &&
      !same(steps, [kind]) &&
      openings.every(({ leaves }) => typeof leaves.find((each) => same(each.steps, steps))?.value === "string"),
  );
  if (!word) return undefined;
  const more = slotted.filter((each) => kindAt(each) !== opened);
  const isSaid = ({ steps, value }: Leaf) =>
    typeof value === "string" && !same(steps, slot) && !isCalled(lastName(steps), names.kind);
  const fragment = more[0]?.leaves.find(isSaid);
  const moreKind = kindAt(more[0] as Event);
  // fragments at places of their own say by that what they are
  const isOnePlace = (path: Steps) => more.every(({ leaves }) => leaves.some(({ steps }) => same(steps, path)));
  if (!fragment || !isOnePlace(fragment.steps)) return undefined;

  const rules: Rule[] = [{ when: { at: `$.${kind}`, is: opened }, block: pathTo(slot), remember: pathTo(word.steps) }];
  const textPaths = new Set([pathTo(fragment.steps), pathTo(word.steps)]);
  let lastText = -1;
  for (const opening of openings) {
    const name = String(opening.leaves.find(({ steps }) => same(steps, word.steps))?.value);
    const parts = more
      .filter((each) => number(each) === number(opening))
      .map(({ leaves }) => String(leaves.find(({ steps }) => same(steps, fragment.steps))?.value ?? ""));
    const when = { at: `$.${kind}`, is: moreKind, remembered: name };
    const path = pathTo(fragment.steps);
    if (/^\s*[{[]/.test(parts.join("")) && parseShallow(parts.join("")) !== undefined) {
      const named = opening.leaves.find(
        ({ steps }) => steps.length > 1 && wordsIn(steps.at(-1) as string).includes("name"),
      );
      const id = opening.leaves.find(({ steps }) => steps.length > 1 && steps.at(-1) === "id");
      if (rules[0])
        rules[0].tool = { ...(id ? { id: pathTo(id.steps) } : {}), ...(named ? { name: pathTo(named.steps) } : {}) };
      rules.push({ when, block: pathTo(slot), tool: { arguments: path } });
      notes.found("answer", "tool call", `${path} of the slot “${name}”`, "likely");
    } else if (names.thought.test(name)) {
      rules.push({ when, block: pathTo(slot), thought: path });
      notes.found("answer", "thought", `${path} of the slot “${name}”`, "sure");
    } else {
      rules.push({ when, block: pathTo(slot), text: path });
      notes.found("answer", "text", `${path} of the slot “${name}”`, "sure");
      lastText = events.lastIndexOf(more.findLast((each) => number(each) === number(opening)) as Event);
    }
  }
  return lastText < 0 ? undefined : { rules, textPaths, lastText };
}
