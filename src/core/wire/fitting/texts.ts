import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, type FittedTexts, type Leaf, type Notes, type Steps, same } from "./finding";
import { isCalled, isEndToken, isStamp, lastName, names } from "./naming";
import { growsSoFar, type Series, seriesOf, textOf, whenOf } from "./series";
import { fitSlots } from "./slots";

/** Adds a rule, joined to one that goes without conditions. */
export function addTo(rules: Rule[], rule: Rule): void {
  const joins = rules.find(
    (each) =>
      !each.when &&
      !each.each &&
      !each.soFar &&
      !each.block &&
      !each.raw &&
      !rule.when &&
      !rule.each &&
      Object.keys(rule).every((name) => !(name in each)),
  );
  if (joins) Object.assign(joins, rule);
  else rules.push(rule);
}

/**
 * Finds where an answer says what the model says: by what changes from event to event or grows, and by what a member is
 * called; never by how it reads.
 * @param taken the written places of what was found before, such as the arguments of tools
 */
export function fitTexts(events: Event[], taken: ReadonlySet<string>, notes: Notes): FittedTexts {
  const isTold = notes.placesOf("answer", "text").length > 0;
  const slots = isTold ? undefined : fitSlots(events, notes);
  if (slots) return slots;
  const meaning = ({ path }: Series) => notes.meaningAt("answer", path);
  const candidates = seriesOf(events).filter((each) => {
    const said = meaning(each);
    if (said) return said === "text" || said === "thought";
    return !taken.has(each.path) && canBeSaid(each, events.length);
  });
  const isThought = (each: Series) => (meaning(each) ? meaning(each) === "thought" : readsAsThought(each));
  const thoughts = candidates.filter(isThought);
  const texts = candidates.filter((each) => !isThought(each)).sort((a, b) => rank(b) - rank(a));
  const text = texts.find((each) => meaning(each) === "text") ?? chosen(texts, notes) ?? onlyText(events, taken);
  const rules: Rule[] = [];
  const textPaths = new Set<string>();
  if (!text) {
    notes.missing.push("The text: nothing in this answer reads like what a model says.");
    return { rules, textPaths, lastText: -1 };
  }
  const isNamed = isCalled(lastName(text.steps), names.text);
  const isAlone =
    meaning(text) !== undefined || (texts.length > 0 && texts.every((each) => each === text || isSame(each, text)));
  notes.found(
    "answer",
    growsSoFar(text) ? "text, all so far" : "text",
    text.path,
    isNamed || isAlone ? "sure" : "likely",
  );
  const flag = flagOf(events, text);
  const take = takeOf(events, text);
  const takes = takesOf(events, text);
  rules.push(...rulesFor(events, text, flag, take, takes, notes));
  textPaths.add(text.path);
  thoughts.sort((a, b) => rank(b) - rank(a));
  const thought = thoughts.find((each) => meaning(each) === "thought") ?? thoughts[0];
  if (thought) {
    notes.found("answer", "thought", thought.path, isPlainThought(thought) || meaning(thought) ? "sure" : "likely");
    textPaths.add(thought.path);
    const rule = ruleOf(events, "thought", thought);
    if (rule.when || rule.soFar) rules.push(rule);
    else addTo(rules, rule);
  }
  const lastSaid = text.values.findLastIndex((value) => value !== "");
  return { rules, textPaths, lastText: text.at[lastSaid] ?? -1 };
}

/** The only text of a whole answer that is no id, no kind and no word for how it ended, whatever it is called. */
function onlyText(events: Event[], taken: ReadonlySet<string>): Series | undefined {
  if (events.length !== 1) return undefined;
  const [only, more] = seriesOf(events).filter(({ path, steps, values }) => {
    const name = lastName(steps);
    const isOther = [names.kind, names.id, names.finish].some((words) => isCalled(name, words));
    return !taken.has(path) && !isOther && !values.every((value) => value === "" || isStamp(value));
  });
  return only && !more ? only : undefined;
}

/** The text among several that can be it: the developer's choice where two of the same rank say different things. */
function chosen(texts: readonly Series[], notes: Notes): Series | undefined {
  const [best] = texts;
  if (!best) return undefined;
  const rivals = texts.filter((each) => each !== best && rank(each) >= rank(best) * 0.9 && !isSame(each, best));
  if (rivals.length === 0) return best;
  const all = [best, ...rivals];
  const said = notes.ask({
    id: "text",
    ask: `Which of these is what the model says? ${all.map((each) => `${each.path}: “${shortened(textOf(each))}”`).join(" · ")}`,
    choices: all.map(({ path }) => path),
  });
  return all.find(({ path }) => path === said) ?? best;
}

function shortened(text: string): string {
  return text.length > 60 ? `${text.slice(0, 60)}…` : text;
}

/** Whether a series may be said by a model: it changes, and is no moment, no id, no kind, no word that only tells how far it is. */
function canBeSaid(series: Series, count: number): boolean {
  const { values, steps } = series;
  const name = lastName(steps);
  const said = values.filter((value) => value !== "");
  if (said.length === 0 || isCalled(name, names.kind) || isCalled(name, names.id)) return false;
  if (said.every(isStamp)) return false;
  // figures alone are counts, where more than one event could have said something
  if (count > 1 && said.every((value) => /^\d+$/.test(value))) return false;
  const isText = isCalled(name, names.text);
  if (!isText && isCalled(name, names.finish)) return false;
  const distinct = new Set(said).size;
  // of one event nothing can be seen to change
  if (count === 1)
    return isText || isCalled(name, names.perhapsText) || readsAsThought(series) || /\s/.test(said.join("").trim());
  // what is called a text may say one word again and again
  if (isText) return true;
  const isConstant = said.length > 1 && distinct === 1;
  const isVocabulary = said.length > 3 && distinct <= 2 && said.every((value) => /^\w+$/.test(value));
  return !isConstant && !isVocabulary;
}

/** Whether what a series is called says nothing else than that it is thought: a note may be one for somebody else. */
function isPlainThought({ path, event, kind }: Series): boolean {
  const said = [path, event, ...(kind && "is" in kind ? kind.is : [])].join(" ");
  return /think|thought|reason|mus(?:e|ing)|ponder|reflect/i.test(said);
}

function readsAsThought({ path, event, kind }: Series): boolean {
  const said = kind && "is" in kind ? [path, ...kind.is] : [path];
  return (
    said
      .join(" ")
      .split(/[^\p{L}\p{N}_]+/u)
      .some((part) => isCalled(part, names.thought)) || isCalled(event, names.thought)
  );
}

/** How likely a series is the text: by what it is called first, and then by how much it says and how often it changes. */
function rank(series: Series): number {
  const name = lastName(series.steps);
  const called = isCalled(name, names.text) ? 100 : isCalled(name, names.perhapsText) ? 10 : 1;
  const text = textOf(series);
  return called * (1 + Math.log2(1 + text.length)) * (series.values.length > 1 ? 4 : 1) * (/\s/.test(text) ? 2 : 1);
}

function isSame(a: Series, b: Series): boolean {
  const [one, other] = [textOf(a), textOf(b)];
  return one === other || one === b.values.join("") || other === a.values.join("");
}

function ruleOf(events: readonly Event[], what: "text" | "thought", series: Series): Rule {
  const when = whenOf(series, new Set(events.map(({ name }) => name)).size === 1);
  return { ...(when ? { when } : {}), [what]: series.path, ...(growsSoFar(series) ? { soFar: true } : {}) };
}

function rulesFor(
  events: readonly Event[],
  text: Series,
  flag: Steps | undefined,
  take: Steps | undefined,
  takes: { list: string; inner: string } | undefined,
  notes: Notes,
): Rule[] {
  if (takes) {
    notes.found("answer", "which take", `${takes.list}[*].index`, "likely");
    return [{ each: `${takes.list}[*]`, take: "@.index", text: takes.inner }];
  }
  const rule = ruleOf(events, "text", text);
  if (flag) {
    const is = { at: pathTo(flag), is: true };
    notes.found("answer", "thought", `${text.path} where ${pathTo(flag)} is true`, "sure");
    return [
      { when: { ...rule.when, ...is }, thought: text.path },
      { when: { ...rule.when, not: is }, text: text.path },
    ];
  }
  const token = text.values.at(-1) ?? "";
  if (text.values.length > 1 && isEndToken(token)) {
    notes.found("answer", "end token", `${text.path} is ${JSON.stringify(token)}`, "likely");
    return [{ ...rule, when: { ...rule.when, not: { at: text.path, is: token } } }];
  }
  if (!take) return [rule];
  notes.found("answer", "which take", pathTo(take), "likely");
  return [{ ...rule, take: pathTo(take) }];
}

/** A flag beside the text that says of some of it that it is thought. */
function flagOf(events: readonly Event[], text: Series): Steps | undefined {
  const owner = text.steps.slice(0, -1);
  if (owner.some((step) => typeof step === "number")) return undefined;
  const besideAt = (at: number) =>
    (events[at] as Event).leaves.filter(
      ({ steps, value }) =>
        value === true && same(steps.slice(0, -1), owner) && isCalled(lastName(steps), names.thought),
    );
  const flagged = text.at.filter((at) => besideAt(at).length > 0);
  const [first] = flagged;
  if (first === undefined || flagged.length === text.at.length) return undefined;
  return besideAt(first)[0]?.steps;
}

/** Where the takes of a reply stand in a list, each with its number, while several of them say something. */
function takesOf(events: readonly Event[], text: Series): { list: string; inner: string } | undefined {
  const place = text.steps.findIndex((step) => typeof step === "number");
  if (place < 0) return undefined;
  const list = text.steps.slice(0, place);
  const numbers = new Set(
    events.flatMap(({ leaves }) =>
      leaves
        .filter(
          ({ steps, value }) =>
            steps.length === place + 2 &&
            steps.at(-1) === "index" &&
            same(steps.slice(0, place), list) &&
            Number.isInteger(value),
        )
        .map(({ value }) => value),
    ),
  );
  if (numbers.size < 2) return undefined;
  return { list: pathTo(list), inner: `@${pathTo(text.steps.slice(place + 1)).slice(1)}` };
}

/** A small number beside the text that takes turns, while the text grows for each of its values by itself. */
function takeOf(events: readonly Event[], text: Series): Steps | undefined {
  const owner = text.steps.slice(0, -1);
  if (owner.some((step) => typeof step === "number")) return undefined;
  const beside = text.at.flatMap((at): Leaf[] =>
    (events[at] as Event).leaves.filter(
      ({ steps, value }) =>
        steps.length === text.steps.length && Number.isInteger(value) && same(steps.slice(0, -1), owner),
    ),
  );
  const called = new Set(beside.map(({ steps }) => String(steps.at(-1))));
  for (const name of called) {
    const values = beside.filter(({ steps }) => steps.at(-1) === name).map(({ value }) => value as number);
    const kinds = new Set(values);
    const turns = values.filter((value, at) => at > 0 && value < (values[at - 1] as number)).length;
    const isTurns = values.length === text.at.length && kinds.size > 1 && kinds.has(0) && turns > 0;
    if (isTurns && kinds.size < values.length / 1.5) return [...owner, name];
  }
  return undefined;
}
