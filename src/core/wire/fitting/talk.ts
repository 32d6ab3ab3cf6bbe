import type { Json } from "../json";
import { pathTo, stepsOf } from "../path";
import type { WrittenProfile } from "../profile-schema";
import { at, isProse, type Leaf, leavesOf, type Notes, type Steps, set } from "./finding";
import { type PastedPicture, type ReadTurns, type Turn, turnsIn } from "./messages";
import { isCalled, isStamp, lastName, names, roleWords } from "./naming";
import { type DecidedRoles, decideRoles } from "./roles";
import { scriptIn } from "./script";

type Roles = WrittenProfile["roles"];

/** What is said in a pasted request, by whom. */
export interface Said {
  /** The prompt, in as many messages as it was sent in. */
  system: string[];
  turns: { role: "visitor" | "app"; text: string; picture?: PastedPicture }[];
}

/** The conversation of a body: the roles of its API, and what was said. Placeholders stand in the body in its places. */
export interface FittedTalk {
  roles: Roles;
  said: Said;
}

/**
 * Finds what is said in a body by where it stands: a list of turns, and beside it the prompt and perhaps the newest
 * message; or one text with the speakers before what they say; or one text alone.
 * @param taken the written places of what a profile fills, to which those of the talk are added
 */
export function fitTalk(document: unknown, taken: Set<string>, notes: Notes): FittedTalk {
  const list = listsIn(document)
    .map(({ steps, list }) => ({ steps, read: turnsIn(list, toldIn(steps, notes)) ?? textsOnly(list, steps) }))
    .filter(
      (each): each is { steps: Steps; read: ReadTurns } => each.read !== undefined && isSpoken(each.read, each.steps),
    )
    .sort((a, b) => a.steps.length - b.steps.length || b.read.turns.length - a.read.turns.length)[0];
  if (list) return fitList(document, list.steps, list.read, taken, notes);
  return fitOneText(document, taken, notes);
}

/** Whether a list holds turns, and not other things with a text in them, such as tools or documents. */
function isSpoken({ turns, roleSteps }: ReadTurns, steps: Steps): boolean {
  const roles = turns.map(({ role }) => role);
  if (roles.some((role) => Object.values(roleWords).some((words) => words.test(role)))) return true;
  if (roleSteps) return true;
  return isCalled(lastName(steps), talkNames);
}

const talkNames =
  /^(?:messages?|turns?|talk|chat|history|conversation|log|thread|dialog|dialogue|course|lines|contents|input)$/;

/** A list of texts that is called as a conversation is: its turns, of which nothing says who speaks. */
function textsOnly(list: readonly unknown[], steps: Steps): ReadTurns | undefined {
  const isTalk = list.length > 1 && isCalled(lastName(steps), talkNames);
  if (!isTalk || !list.every((each) => typeof each === "string")) return undefined;
  return { turns: list.map((text) => ({ role: "", text })), textSteps: [], template: () => "<text>" };
}

/** Where the developer says that the role and the text of a message stand, as ways from the message. */
function toldIn(list: Steps, notes: Notes): { role?: Steps; text?: Steps } {
  const inList = (meaning: string): Steps | undefined => {
    const start = `${pathTo(list)}[`;
    const where = notes.placesOf("request", meaning).find((each) => each.startsWith(start));
    return where === undefined ? undefined : stepsOf(where)?.slice(list.length + 1);
  };
  return { role: inList("role"), text: inList("text") };
}

function listsIn(document: unknown, steps: Steps = []): { steps: Steps; list: unknown[] }[] {
  if (Array.isArray(document))
    return [{ steps, list: document }, ...document.flatMap((each, place) => listsIn(each, [...steps, place]))];
  if (typeof document !== "object" || document === null) return [];
  return Object.entries(document).flatMap(([name, each]) => listsIn(each, [...steps, name]));
}

function fitList(document: unknown, steps: Steps, read: ReadTurns, taken: Set<string>, notes: Notes): FittedTalk {
  const where = pathTo(steps);
  const newest = newestBeside(document, steps, read, notes);
  const found = (what: string, inner: Steps) =>
    notes.found("request", what, `${where}[*]${pathTo(inner).slice(1)}`, "sure");
  notes.found("request", "messages", where, "sure");
  if (read.turns.some(({ picture }) => picture)) notes.found("request", "pictures", where, "sure");
  found("text", read.textSteps);
  if (read.roleSteps) found("role", read.roleSteps);
  const isRoleNamed = read.turns.some(({ role }) => role !== "");
  if (!isRoleNamed) notes.missing.push("The roles: the messages do not say who speaks.");
  const decided: DecidedRoles = isRoleNamed
    ? decideRoles(
        read.turns.map(({ role }) => role),
        notes,
        newest === undefined,
      )
    : { visitor: "user", app: "assistant" };
  set(document, steps, { "<each>": newest ? "earlier" : "messages", as: read.template(decided.visitor, decided.app) });
  taken.add(where);
  const turns = [...read.turns];
  if (newest) {
    notes.found("request", "newest message", pathTo(newest.steps), "sure");
    turns.push({ role: decided.visitor, text: String(newest.value) });
    set(document, newest.steps, { "<of>": "newest", as: "<text>" });
    taken.add(pathTo(newest.steps));
  }
  return withPrompt(document, decided, turns, taken, notes);
}

/** The newest message, where the list ends with the app's turn and one text beside it is called so. */
function newestBeside(document: unknown, steps: Steps, { turns }: ReadTurns, notes: Notes): Leaf | undefined {
  const roles = turns.map(({ role }) => role);
  const last = roles.at(-1) ?? "";
  const first = roles.find((role) => !roleWords.system.test(role)) ?? "";
  const endsWithApp = roleWords.app.test(last) || (roleWords.visitor.test(first) && last !== first);
  const beside = leavesOf(document).filter(
    (leaf) =>
      typeof leaf.value === "string" &&
      leaf.value !== "" &&
      pathTo(leaf.steps.slice(0, steps.length)) !== pathTo(steps),
  );
  const told = beside.find((leaf) => notes.meaningAt("request", pathTo(leaf.steps)) === "newest message");
  if (told || !endsWithApp) return told;
  return beside.find((leaf) => isCalled(lastName(leaf.steps), names.newest));
}

/** The roles with how the prompt goes, and what was said by whom. */
function withPrompt(
  document: unknown,
  { system, visitor, app }: DecidedRoles,
  turns: readonly Turn[],
  taken: Set<string>,
  notes: Notes,
): FittedTalk {
  const spoken = turns.filter(({ role }) => system === undefined || role !== system);
  const said: Said = {
    system: turns.filter(({ role }) => system !== undefined && role === system).map(({ text }) => text),
    turns: spoken.map((turn) => ({ ...turn, role: turn.role === visitor ? "visitor" : "app" })),
  };
  if (system !== undefined) return { roles: { system, visitor, app, prompt: "message" }, said };
  const field = promptIn(document, taken, notes);
  if (!field) {
    notes.missing.push(
      "The system prompt: the request shows none, so it goes before the first visitor's message, which any API takes.",
    );
    return { roles: { visitor, app, prompt: "first" }, said };
  }
  said.system = field.leaf.value === "" ? [] : [String(field.leaf.value)];
  putPrompt(document, field.leaf.steps);
  taken.add(pathTo(field.leaf.steps.slice(0, 1)));
  notes.found("request", "system prompt", pathTo(field.leaf.steps), field.isNamed ? "sure" : "likely");
  return { roles: { visitor, app, prompt: "field" }, said };
}

/** Where the prompt stands outside of the turns: what is called so, be it empty, or the only text that reads like one. */
function promptIn(
  document: unknown,
  taken: ReadonlySet<string>,
  notes: Notes,
): { leaf: Leaf; isNamed: boolean } | undefined {
  const outside = leavesOf(document).filter(
    ({ steps, value }) => typeof value === "string" && !isTaken(steps, taken) && !isCalled(lastName(steps), names.kind),
  );
  const told = outside.find(({ steps }) => notes.meaningAt("request", pathTo(steps)) === "system prompt");
  if (told) return { leaf: told, isNamed: true };
  const named = outside.find(
    ({ steps, value }) => steps.some((step) => isCalled(step, names.system)) && !isStamp(String(value)),
  );
  if (named) return { leaf: named, isNamed: true };
  // what stands in a list is one of several, such as the description of a tool
  const prose = outside.filter(({ steps, value }) => isProse(value) && steps.every((step) => typeof step === "string"));
  const [only, more] = prose;
  return only && !more ? { leaf: only, isNamed: false } : undefined;
}

/** Puts the prompt in its place; what holds it and nothing else goes where there is none. */
function putPrompt(document: unknown, steps: Steps): void {
  set(document, steps, "<system>");
  const owner = steps.slice(0, 1);
  if (steps.length > 1) set(document, owner, { "<if>": "system", as: at(document, owner) as Json });
}

/** A conversation as one text: with its speakers, or the newest message alone, which then is all that goes. */
function fitOneText(document: unknown, taken: Set<string>, notes: Notes): FittedTalk {
  const texts = leavesOf(document).filter(
    ({ steps, value }) => typeof value === "string" && value !== "" && !isTaken(steps, taken),
  );
  for (const { steps, value } of texts) {
    const script = scriptIn(String(value));
    if (!script) continue;
    const decided = decideRoles(
      script.turns.map(({ role }) => role),
      notes,
    );
    set(document, steps, script.template);
    taken.add(pathTo(steps));
    notes.found("request", "messages", pathTo(steps), "sure");
    notes.found("request", "text", pathTo(steps), "sure");
    const talk = withPrompt(document, decided, script.turns, taken, notes);
    return talk;
  }
  const single =
    texts.find(({ steps }) => notes.meaningAt("request", pathTo(steps)) === "text") ??
    texts.find(({ steps }) => isCalled(lastName(steps), /^(?:prompt|input|query|question|message|text|inputs)$/)) ??
    texts.find(({ value }) => isProse(value));
  if (!single) {
    notes.missing.push(
      "The messages: no list of what was said was found, and no text with the speakers before what they say.",
    );
    return { roles: { visitor: "user", app: "assistant", prompt: "first" }, said: { system: [], turns: [] } };
  }
  const text = String(single.value);
  set(document, single.steps, {
    "<join>": [{ "<each>": "messages", as: "<role>: <text>" }, "Assistant:"],
    with: "\n",
  });
  taken.add(pathTo(single.steps));
  notes.found("request", "messages", pathTo(single.steps), "likely");
  notes.missing.push(
    `How a conversation goes in one text: ${pathTo(single.steps)} holds one message. Each is begun with who speaks; say it otherwise in the profile where this API wants that.`,
  );
  const talk = withPrompt(document, { visitor: "User", app: "Assistant" }, [{ role: "User", text }], taken, notes);
  return talk;
}

/** Whether a way leads into something that a profile fills. */
export function isTaken(steps: Steps, taken: ReadonlySet<string>): boolean {
  return steps.some((_, length) => taken.has(pathTo(steps.slice(0, length + 1))));
}
