import { pathTo } from "../path";
import { at, isNamed, type Leaf, leavesOf, type Notes, set, wordsIn } from "./finding";
import { isCalled, lastName, names } from "./naming";
import { isTaken } from "./talk";

/** The settings of a pasted request, as a call would have them. */
export interface FittedSettings {
  values: Record<string, number | string[]>;
  takes?: number;
  /** Whether a member of the request asks for a stream. */
  stream?: boolean;
}

const numbers: [placeholder: string, says: string, words: RegExp][] = [
  ["temperature", "temperature", /^(?:temperature|temp|heat|warmth|spark|t)$/],
  ["topP", "top-p", /^(?:topp|p|nucleus|share)$/],
  ["topK", "top-k", /^(?:topk|k|top)$/],
  [
    "maxOutput",
    "output limit",
    /^(?:maxtokens|maxoutput|maxoutputtokens|maxcompletiontokens|maxnewtokens|maxlength|outputtokens|ceiling|longest|length|limit|cap|wick|max|nmax)$/,
  ],
  ["seed", "seed", /^(?:seed|randomseed)$/],
];

/** Puts placeholders in the places of settings, which are known by their names or are the only number that can be one. */
export function fitSettings(document: unknown, taken: Set<string>, streams: boolean, notes: Notes): FittedSettings {
  const fitted: FittedSettings = { values: {} };
  const free = () => leavesOf(document).filter(({ steps }) => !isTaken(steps, taken));
  const put = ({ steps }: Leaf, placeholder: string, says: string, certainty: "sure" | "likely") => {
    set(document, steps, `<${placeholder}>`);
    taken.add(pathTo(steps));
    notes.found("request", says, pathTo(steps), certainty);
  };
  const keep = (leaf: Leaf, name: string, says: string, certainty: "sure" | "likely") => {
    fitted.values[name] = Number(leaf.value);
    put(leaf, name, says, certainty);
  };
  for (const [name, says, words] of numbers) {
    const told = free().find((each) => isNumber(each) && notes.meaningAt("request", pathTo(each.steps)) === says);
    const leaf =
      told ?? free().find((each) => isNumber(each) && fits(name, Number(each.value)) && isCalledSo(each, words));
    if (leaf) keep(leaf, name, says, "sure");
  }
  const left = free().filter((leaf) => typeof leaf.value === "number");
  const fractions = left.filter(({ value }) => Number(value) >= 0 && Number(value) <= 2 && !Number.isInteger(value));
  const [fraction, more] = fractions;
  if (fraction && !more && !("temperature" in fitted.values)) keep(fraction, "temperature", "temperature", "likely");
  const counts = left.filter(({ value }) => Number.isInteger(value) && Number(value) >= 16);
  if (counts.length === 1 && !("maxOutput" in fitted.values))
    keep(counts[0] as Leaf, "maxOutput", "output limit", "likely");

  const takes = free().find(
    (leaf) =>
      Number.isInteger(leaf.value) &&
      Number(leaf.value) >= 1 &&
      Number(leaf.value) <= 16 &&
      (isCalledSo(leaf, names.takes) || notes.meaningAt("request", pathTo(leaf.steps)) === "takes"),
  );
  if (takes) {
    fitted.takes = Number(takes.value);
    put(takes, "takes", "takes", "sure");
  }
  fitStop(document, taken, fitted, notes);
  fitStream(document, taken, streams, fitted, notes);
  return fitted;
}

/** A number, or one that a form has as text. */
function isNumber({ value }: Leaf): boolean {
  return typeof value === "number" || (typeof value === "string" && /^-?\d{1,9}(?:\.\d+)?$/.test(value));
}

function isCalledSo({ steps }: Leaf, words: RegExp): boolean {
  const name = lastName(steps) ?? "";
  const all = wordsIn(name);
  return words.test(all.join("")) || all.some((word) => words.test(word));
}

function fits(name: string, value: number): boolean {
  if (name === "temperature") return value >= 0 && value <= 2;
  if (name === "topP") return value > 0 && value <= 1;
  return Number.isInteger(value) && value >= 0;
}

/** A list of texts that is called so: words at which the reply ends. */
function fitStop(document: unknown, taken: Set<string>, fitted: FittedSettings, notes: Notes): void {
  for (const { steps, list } of textListsIn(document)) {
    if (isTaken(steps, taken) || !isCalled(lastName(steps), names.stop)) continue;
    fitted.values.stop = list;
    set(document, steps, "<stop>");
    taken.add(pathTo(steps));
    notes.found("request", "stop words", pathTo(steps), "sure");
    return;
  }
}

function textListsIn(
  document: unknown,
  steps: (string | number)[] = [],
): { steps: (string | number)[]; list: string[] }[] {
  if (Array.isArray(document)) {
    if (document.length > 0 && document.every((each) => typeof each === "string")) return [{ steps, list: document }];
    return document.flatMap((each, place) => textListsIn(each, [...steps, place]));
  }
  if (typeof document !== "object" || document === null) return [];
  return Object.entries(document).flatMap(([name, each]) => textListsIn(each, [...steps, name]));
}

const streamWords = /^(?:stream|streaming|streamed|streams|flow|flows|flowing|live|sse|chunked|incremental)$/;
/** Flags that are often there, and ask for no stream. */
const otherFlags = /^(?:trace|debug|echo|cache|cached|verbose|store|stored|log|logging|safe|moderate|sample|test)$/;

/** The flag that asks for a stream, and what goes along only with one. */
function fitStream(
  document: unknown,
  taken: Set<string>,
  streams: boolean,
  fitted: FittedSettings,
  notes: Notes,
): void {
  const flags = leavesOf(document).filter(({ steps, value }) => !isTaken(steps, taken) && typeof value === "boolean");
  const named =
    flags.find(({ steps }) => notes.meaningAt("request", pathTo(steps)) === "stream") ??
    flags.find(({ steps }) => isNamed(steps.slice(-1), streamWords));
  const on = flags.filter(({ value, steps }) => value && !isNamed(steps.slice(-1), otherFlags));
  const flag = named ?? (streams && on.length === 1 ? on[0] : undefined);
  if (flag) {
    fitted.stream = flag.value === true;
    set(document, flag.steps, "<stream>");
    taken.add(pathTo(flag.steps));
    notes.found("request", "stream", pathTo(flag.steps), named ? "sure" : "likely");
  }
  const options = on.filter((each) => each !== flag && isNamed(each.steps.slice(0, 1), /^stream/));
  for (const { steps } of options) {
    const owner = steps.slice(0, 1);
    if (isTaken(owner, taken)) continue;
    set(document, owner, { "<if>": "stream", as: at(document, owner) });
    taken.add(pathTo(owner));
    notes.found("request", "only when streaming", pathTo(owner), "likely");
  }
}
