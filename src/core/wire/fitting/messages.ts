import type { Json } from "../json";
import { type Leaf, leavesOf, type Steps, same, set } from "./finding";
import { isCalled, isStamp, lastName, names, roleWords } from "./naming";

/** One turn of a pasted conversation. */
export interface Turn {
  /** The API's word for who speaks; empty where no turn says it. */
  role: string;
  text: string;
  /** A picture that goes with the text: its media type, its bytes as base64, and whether it stands before. */
  picture?: PastedPicture;
}

/** A picture as it stands in a pasted request. */
export interface PastedPicture {
  type: string;
  bytes: string;
  isBefore: boolean;
}

/** A list of turns as it was read, and how each is written. */
export interface ReadTurns {
  turns: Turn[];
  /** Where the role and the text stand in a message; no role where a member is called by it, or nothing says it. */
  roleSteps?: Steps;
  textSteps: Steps;
  /** The template of a message, once the roles are known. @param app the app's word */
  template(visitor: string, app: string): Json;
}

/**
 * Reads a list as turns, by what stands where and never by how it reads; undefined where it is none.
 * @param told where the developer says that the role and the text stand
 */
export function turnsIn(list: readonly unknown[], told: { role?: Steps; text?: Steps } = {}): ReadTurns | undefined {
  if (list.length === 0 || !list.every((each) => typeof each === "object" && each !== null)) return undefined;
  const isTold = told.role !== undefined || told.text !== undefined;
  return (isTold ? undefined : byMemberNames(list)) ?? byRoles(list, told);
}

/** Turns whose only member is called by who speaks: `[{"user": "…"}, {"bot": "…"}]`. */
function byMemberNames(list: readonly unknown[]): ReadTurns | undefined {
  const turns = list.flatMap((each): Turn[] => {
    const [only, more] = Object.entries(each as object);
    return only && !more && !Array.isArray(each) && typeof only[1] === "string"
      ? [{ role: only[0], text: only[1] }]
      : [];
  });
  const roles = new Set(turns.map(({ role }) => role));
  const isSpoken = [...roles].some((role) => roleWords.visitor.test(role) || roleWords.app.test(role));
  if (turns.length !== list.length || !isSpoken) return undefined;
  return {
    turns,
    textSteps: [turns[0]?.role ?? ""],
    template: (visitor, app) => ({
      "<if>": "role",
      is: visitor,
      as: { [visitor]: "<text>" },
      else: { [app || "app"]: "<text>" },
    }),
  };
}

function byRoles(list: readonly unknown[], told: { role?: Steps; text?: Steps }): ReadTurns | undefined {
  const messages = list.map((each) => leavesOf(each));
  const roleSteps = told.role ?? roleStepsOf(messages);
  const texts = messages.map(
    (leaves) => leaves.find(({ steps }) => told.text && same(steps, told.text)) ?? textLeafOf(leaves, roleSteps),
  );
  if (texts.some((leaf) => leaf === undefined)) return undefined;
  const found = texts as Leaf[];
  // a list of turns says who speaks, or is the only one that holds what is said
  const turns = found.map((leaf, at): Turn => {
    const picture = pictureIn(messages[at] ?? [], leaf);
    return {
      role: String(valueAt(messages[at] ?? [], roleSteps) ?? ""),
      text: String(leaf.value),
      ...(picture ? { picture } : {}),
    };
  });
  const templates = list.map((each, at) => templateOf(each, roleSteps, (found[at] as Leaf).steps));
  return {
    turns,
    ...(roleSteps ? { roleSteps } : {}),
    textSteps: found.at(-1)?.steps ?? [],
    template: (visitor) => byRole(turns, templates, visitor),
  };
}

/** A template that holds for all turns, or one for the visitor's and one for the others, where they are of two types. */
function byRole(turns: readonly Turn[], templates: readonly Json[], visitor: string): Json {
  const isVisitors = ({ role }: Turn) => role === visitor;
  // one that shows where pictures go tells more than one without
  const seen = turns.findLastIndex((turn) => isVisitors(turn) && turn.picture !== undefined);
  const own = templates[seen < 0 ? turns.findLastIndex(isVisitors) : seen] ?? (templates.at(-1) as Json);
  const others = turns.findLastIndex(({ role }) => role !== visitor && !roleWords.system.test(role));
  const other = others < 0 ? own : (templates[others] as Json);
  const isSame = (a: Json, b: Json) => JSON.stringify(a) === JSON.stringify(b);
  const prompts = turns.findIndex(({ role }) => role !== visitor && roleWords.system.test(role));
  const prompt = prompts < 0 ? other : (templates[prompts] as Json);
  const rest: Json = isSame(prompt, other)
    ? other
    : { "<if>": "role", is: turns[prompts]?.role ?? "", as: prompt, else: other };
  return isSame(own, other) && isSame(prompt, other) ? own : { "<if>": "role", is: visitor, as: own, else: rest };
}

/** Where the words for who speaks stand: at one place in every message, short, and known by the member's name, by the words, or since they take turns. */
function roleStepsOf(messages: readonly Leaf[][]): Steps | undefined {
  const counted = (messages[0] ?? []).find(
    ({ steps, value }) =>
      (typeof value === "number" || typeof value === "boolean") &&
      isCalled(lastName(steps), names.role) &&
      messages.every((leaves) => typeof valueAt(leaves, steps) === typeof value),
  );
  if (counted) return counted.steps;
  const candidates = (messages[0] ?? []).filter(({ steps, value }) => {
    if (typeof value !== "string" || steps.length > 3) return false;
    const values = messages.map((leaves) => valueAt(leaves, steps));
    return values.every((each) => typeof each === "string" && each.length <= 30 && !/\s/.test(each));
  });
  const wordsAt = ({ steps }: Leaf) => messages.map((leaves) => String(valueAt(leaves, steps)));
  const isKnown = (leaf: Leaf) =>
    wordsAt(leaf).some((word) => roleWords.visitor.test(word) || roleWords.app.test(word));
  const takesTurns = (leaf: Leaf) => {
    const words = wordsAt(leaf);
    return new Set(words).size > 1 && words.length >= 3 && new Set(words).size < words.length;
  };
  return (
    candidates.find(({ steps }) => isCalled(lastName(steps), names.role)) ??
    candidates.find(isKnown) ??
    candidates.find((leaf) => !isCalled(lastName(leaf.steps), names.text) && takesTurns(leaf)) ??
    wordBesideText(messages, candidates)
  )?.steps;
}

/** In a single message, the only word beside a text of several. */
function wordBesideText(messages: readonly Leaf[][], candidates: readonly Leaf[]): Leaf | undefined {
  const [leaves, more] = messages;
  const [only, another] = candidates.filter(({ steps }) => !isCalled(lastName(steps), names.kind));
  const isBeside = leaves?.some(({ value }) => typeof value === "string" && /\s/.test(value.trim()));
  return !more && only && !another && isBeside ? only : undefined;
}

/** What is said in a message: what is called so, or the only text in it beside its role, its kind and its ids. */
function textLeafOf(leaves: readonly Leaf[], roleSteps: Steps | undefined): Leaf | undefined {
  const texts = leaves.filter(
    ({ steps, value }) => typeof value === "string" && !(roleSteps && same(steps, roleSteps)) && !isPicture(value),
  );
  const plain = texts.filter(
    ({ steps, value }) =>
      !isCalled(lastName(steps), names.kind) && !isCalled(lastName(steps), names.id) && !isStamp(String(value)),
  );
  const called = (words: RegExp) => plain.find(({ steps }) => isCalled(lastName(steps), words));
  return called(names.text) ?? called(names.perhapsText) ?? (plain.length === 1 ? plain[0] : longest(plain));
}

function longest(leaves: readonly Leaf[]): Leaf | undefined {
  return [...leaves].sort((a, b) => String(b.value).length - String(a.value).length)[0];
}

/** The picture of a message, with where it stands to its text. */
function pictureIn(leaves: readonly Leaf[], text: Leaf): PastedPicture | undefined {
  const at = leaves.findIndex(({ value }) => isPicture(value));
  if (at < 0) return undefined;
  const written = String(leaves[at]?.value);
  const [, type, bytes] = /^data:(image\/[\w.+-]+);base64,(.*)$/s.exec(written) ?? [];
  const beside = leaves.find(({ value }) => typeof value === "string" && /^image\/\w+$/.test(value))?.value;
  return {
    type: type ?? String(beside ?? "image/png"),
    bytes: bytes ?? written,
    isBefore: at < leaves.indexOf(text),
  };
}

/** Whether a text is a picture: a data URL, or base64 that is far too long for anything else. */
export function isPicture(value: unknown): boolean {
  return typeof value === "string" && (/^data:image\//.test(value) || /^[A-Za-z0-9+/]{200,}={0,2}$/.test(value));
}

function templateOf(message: unknown, roleSteps: Steps | undefined, textSteps: Steps): Json {
  const template = structuredClone(message) as Json;
  // a number that says who speaks stays one: there is a template for each then
  if (roleSteps && typeof valueIn(message, roleSteps) === "string") set(template, roleSteps, "<role>");
  const list = textSteps.findLastIndex((step) => typeof step === "number");
  const pieces = list > 0 ? (valueIn(template, textSteps.slice(0, list)) as unknown[]) : undefined;
  const picture = pieces?.find((each) => leavesOf(each).some(({ value }) => isPicture(value)));
  set(template, textSteps, "<text>");
  if (!pieces || picture === undefined) return withoutFurther(template, textSteps, list);
  // pieces of two kinds: each is written in its own way
  const said = valueIn(template, textSteps.slice(0, list + 1)) as Json;
  set(template, textSteps.slice(0, list), {
    "<each>": "pieces",
    as: { "<if>": "kind", is: "picture", as: picturePiece(picture), else: said },
  });
  return template;
}

/** A message whose text stands in a list of pieces: one piece of text is all of it. */
function withoutFurther(template: Json, textSteps: Steps, list: number): Json {
  if (list <= 0) return template;
  const owner = textSteps.slice(0, list);
  const pieces = valueIn(template, owner);
  if (Array.isArray(pieces) && pieces.length > 1) set(template, owner, [pieces[textSteps[list] as number]]);
  return template;
}

function picturePiece(piece: unknown): Json {
  const template = structuredClone(piece) as Json;
  for (const { steps, value } of leavesOf(template)) {
    if (typeof value !== "string") continue;
    if (/^data:image\//.test(value)) set(template, steps, "data:<type>;base64,<bytes>");
    else if (isPicture(value)) set(template, steps, "<bytes>");
    else if (/^image\/\w+$/.test(value)) set(template, steps, "<type>");
  }
  return template;
}

function valueIn(document: unknown, steps: Steps): unknown {
  return steps.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)?.[step], document);
}

function valueAt(leaves: readonly Leaf[], steps: Steps | undefined): Leaf["value"] | undefined {
  return steps && leaves.find((leaf) => same(leaf.steps, steps))?.value;
}
