import { parseShallow, percentEncoded } from "../json";
import type { PastedRequest } from "../pasted/pasted";
import { pathTo } from "../path";
import type { WrittenProfile } from "../profile-schema";
import { at, isNamed, isProse, type Leaf, leavesOf, type Notes, type Steps, same, set, wordsIn } from "./finding";
import { type FittedCredential, fitSecrets, type PastedSecret } from "./key";

/** What a pasted request tells of its provider and of its wire profile. */
export interface FittedRequest {
  address: string;
  credential: FittedCredential;
  /** Secrets beside the credential, by the names under which the profile has them. */
  extras: Record<string, PastedSecret>;
  model: string;
  request: WrittenProfile["request"];
  roles: WrittenProfile["roles"];
}

type Roles = WrittenProfile["roles"];

/** Reads a pasted request: which of its parts a profile fills, and with what. */
export function fitRequest(pasted: PastedRequest, streams: boolean, notes: Notes): FittedRequest {
  const url = pasted.url === "" ? undefined : new URL(pasted.url);
  if (!url) notes.missing.push("The address: only a body was pasted. Give the address of the API.");
  const body = parsedBody(pasted, notes);
  const document = withoutPlaceholders(body);
  const { credential, extras, headers, query, path } = fitSecrets(pasted, url, document, notes);
  const talk = fitTalk(document, notes);
  fitSettings(document, talk.taken, streams, notes);
  const model = fitModel(document, url, query, talk.taken, notes);
  const inPath = (text: string) => (model === "" ? text : text.replaceAll(percentEncoded(model), "<model>"));
  const inQuery = (value: string) => (value === model && model !== "" ? "<model>" : value);
  return {
    address: url?.origin ?? "",
    credential,
    extras,
    model,
    roles: talk.roles,
    request: {
      method: pasted.method === "PUT" || pasted.method === "GET" ? pasted.method : "POST",
      path: inPath(path),
      ...(Object.keys(query).length > 0
        ? { query: Object.fromEntries(Object.entries(query).map(([name, value]) => [name, inQuery(value)])) }
        : {}),
      headers,
      ...(body === undefined ? {} : { body: document as never }),
    },
  };
}

/** A copy of a body in which nothing reads like a placeholder of a template. */
function withoutPlaceholders(body: unknown): unknown {
  if (typeof body === "string") return body.replaceAll("<", "<<");
  if (Array.isArray(body)) return body.map(withoutPlaceholders);
  if (typeof body !== "object" || body === null) return body;
  return Object.fromEntries(Object.entries(body).map(([name, value]) => [name, withoutPlaceholders(value)]));
}

function parsedBody(pasted: PastedRequest, notes: Notes): unknown {
  if (pasted.body === "") {
    notes.missing.push("The body: the request has none, so nothing of it carries what is said.");
    return undefined;
  }
  const body = parseShallow(pasted.body);
  if (body === undefined)
    notes.missing.push("The body is no JSON that can be gone through, so nothing in it was found.");
  return body;
}

const systemNames = /^(?:system|instructions?|manner|rules?|preamble|context|prompt|guide|before|persona)$/;

/** Finds what is said in a body, puts placeholders in its place, and tells the roles. */
function fitTalk(document: unknown, notes: Notes): { roles: Roles; taken: Set<string> } {
  const taken = new Set<string>();
  const lists = listsIn(document).filter(
    ({ list }) => list.length > 0 && list.every((each) => leavesOf(each).some(({ value }) => isProse(value))),
  );
  const list = lists.sort((a, b) => a.steps.length - b.steps.length || b.list.length - a.list.length)[0];
  if (list) return fitList(document, list.steps, list.list, taken, notes);
  const script = leavesOf(document).find(({ value }) => typeof value === "string" && labelsIn(value).length >= 2);
  if (script) return fitScript(document, script, taken, notes);
  notes.missing.push(
    "The messages: no list of what was said was found, and no text with the speakers before what they say.",
  );
  return { roles: { visitor: "user", app: "assistant", prompt: "first" }, taken };
}

function listsIn(document: unknown, steps: Steps = []): { steps: Steps; list: unknown[] }[] {
  if (Array.isArray(document))
    return [{ steps, list: document }, ...document.flatMap((each, at) => listsIn(each, [...steps, at]))];
  if (typeof document !== "object" || document === null) return [];
  return Object.entries(document).flatMap(([name, each]) => listsIn(each, [...steps, name]));
}

function fitList(document: unknown, at: Steps, list: unknown[], taken: Set<string>, notes: Notes) {
  const messages = list.map((message) => leavesOf(message));
  const textStep = (messages.at(-1) ?? []).find(({ value }) => isProse(value));
  const roleLeaf = (messages.at(-1) ?? []).find(
    (leaf) =>
      leaf !== textStep &&
      typeof leaf.value === "string" &&
      !isProse(leaf.value) &&
      (messages.length === 1 || varies(messages, leaf)),
  );
  const valueAt = (leaves: Leaf[], steps: Steps | undefined) =>
    leaves.find((leaf) => same(leaf.steps, steps ?? []))?.value;
  const words = messages.map((leaves) => String(valueAt(leaves, roleLeaf?.steps) ?? ""));
  const template = structuredClone(list.at(-1));
  if (textStep) set(template, textStep.steps, "<text>");
  if (roleLeaf) set(template, roleLeaf.steps, "<role>");
  const where = pathTo(at);
  notes.found("request", "messages", where, "sure");
  if (textStep) notes.found("request", "text", `${where}[*]${pathTo(textStep.steps).slice(1)}`, "sure");
  if (roleLeaf) notes.found("request", "role", `${where}[*]${pathTo(roleLeaf.steps).slice(1)}`, "sure");
  else notes.missing.push("The roles: the messages do not say who speaks.");
  set(document, at, { "<each>": "messages", as: template });
  taken.add(where);
  const roles = fitRoles(words, notes);
  return { roles: fitPrompt(document, roles, taken, notes), taken };
}

/** Whether a leaf has more than one value over the messages. */
function varies(messages: Leaf[][], leaf: Leaf): boolean {
  const values = new Set(messages.map((leaves) => leaves.find(({ steps }) => same(steps, leaf.steps))?.value));
  return values.size > 1 || isNamed(leaf.steps, /^(?:role|who|by|from|author|speaker|side|voice)$/);
}

function fitRoles(words: string[], notes: Notes): Roles {
  const visitor = words.at(-1) ?? "user";
  notes.found("request", `visitor is “${visitor}”`, "the last message", "sure");
  const before = words.slice(0, -1);
  const first = before[0];
  const hasSystem =
    first !== undefined && first !== visitor && before.indexOf(visitor) === 1 && !before.slice(1).includes(first);
  const app = before.slice(hasSystem ? 1 : 0).find((word) => word !== visitor);
  if (hasSystem) notes.found("request", `system prompt is “${first}”`, "the first message", "sure");
  if (app !== undefined) notes.found("request", `app is “${app}”`, "the messages between", "sure");
  const named =
    app ??
    notes.ask({
      id: "app role",
      ask: "What does this API call the app, where it repeats what the app said? The request shows no such message.",
    });
  return { visitor, app: named ?? "", ...(hasSystem ? { system: first, prompt: "message" } : {}) } as Roles;
}

/** Finds the system prompt where it is no message. */
function fitPrompt(document: unknown, roles: Roles, taken: Set<string>, notes: Notes): Roles {
  if (roles.system !== undefined) return roles;
  const outside = leavesOf(document).filter(({ steps, value }) => !isTaken(steps, taken) && typeof value === "string");
  const named = outside.find(
    ({ steps, value }) => isNamed(steps.slice(-1), systemNames) && (value === "" || isProse(value)),
  );
  const prose = outside.filter(({ value }) => isProse(value));
  const field = named ?? (prose.length === 1 ? prose[0] : undefined);
  if (!field) {
    notes.missing.push(
      "The system prompt: the request shows none, so it goes before the first visitor's message, which any API takes.",
    );
    return { ...roles, prompt: "first" };
  }
  set(document, field.steps, "<system>");
  taken.add(pathTo(field.steps));
  notes.found("request", "system prompt", pathTo(field.steps), named ? "sure" : "likely");
  return { ...roles, prompt: "field" };
}

const label = /^(\[?)(\p{L}[\p{L} ]{0,20})(\]|:)( ?)/u;

function labelsIn(text: string): string[] {
  return text.split("\n").flatMap((line) => label.exec(line)?.[2] ?? []);
}

/** A conversation as one text, each line begun with who speaks. */
function fitScript(document: unknown, leaf: Leaf, taken: Set<string>, notes: Notes) {
  const lines = String(leaf.value).split("\n");
  const [, open = "", , close = ":", space = ""] = label.exec(lines[0] ?? "") ?? [];
  const spoken = lines.flatMap((line) => {
    const match = label.exec(line);
    return match ? [{ who: match[2] as string, text: line.slice(match[0].length) }] : [];
  });
  const cue = spoken.at(-1)?.text.trim() === "" ? spoken.pop() : undefined;
  const roles = fitRoles(
    spoken.map(({ who }) => who),
    notes,
  );
  const cueText = cue ? lines.at(-1) : undefined;
  set(document, leaf.steps, {
    "<join>": [{ "<each>": "messages", as: `${open}<role>${close}${space}<text>` }, ...(cueText ? [cueText] : [])],
    with: "\n",
  });
  taken.add(pathTo(leaf.steps));
  notes.found("request", "messages", pathTo(leaf.steps), "sure");
  return { roles: roles.system === undefined ? { ...roles, prompt: "first" as const } : roles, taken };
}

const settingNames: [placeholder: string, words: RegExp][] = [
  ["temperature", /^(?:temperature|temp|heat|warmth|t)$/],
  ["topP", /^(?:topp|p|nucleus)$/],
  ["topK", /^(?:topk|k)$/],
  ["maxOutput", /^(?:max|maxtokens|maximum|limit|longest|cap|ceiling|length|tokens)$/],
  ["seed", /^seed$/],
  ["stop", /^(?:stop|stops|halt)$/],
];
const settingSayings: Record<string, string> = {
  temperature: "temperature",
  topP: "top-p",
  topK: "top-k",
  maxOutput: "output limit",
  seed: "seed",
  stop: "stop words",
};

function fitSettings(document: unknown, taken: Set<string>, streams: boolean, notes: Notes): void {
  const put = (leaf: Leaf, placeholder: string, what: string, certainty: "sure" | "likely") => {
    set(document, leaf.steps, `<${placeholder}>`);
    taken.add(pathTo(leaf.steps));
    notes.found("request", what, pathTo(leaf.steps), certainty);
  };
  const free = () => leavesOf(document).filter(({ steps }) => !isTaken(steps, taken));
  const done = new Set<string>();
  for (const leaf of free()) {
    if (typeof leaf.value !== "number") continue;
    const words = wordsIn(leaf.steps.at(-1) as string);
    const compact = words.join("");
    const name = settingNames.find(
      ([, pattern]) => pattern.test(compact) || words.some((word) => pattern.test(word)),
    )?.[0];
    if (!name || name === "stop" || done.has(name) || !fitsSetting(name, leaf.value)) continue;
    done.add(name);
    put(leaf, name, settingSayings[name] as string, "sure");
  }
  const numbers = free().filter((leaf): leaf is Leaf & { value: number } => typeof leaf.value === "number");
  const fractions = numbers.filter(({ value }) => value >= 0 && value <= 2 && !Number.isInteger(value));
  if (!done.has("temperature") && fractions.length === 1)
    put(fractions[0] as Leaf, "temperature", "temperature", "likely");
  const counts = numbers.filter(({ value }) => Number.isInteger(value) && value >= 16);
  if (!done.has("maxOutput") && counts.length === 1) put(counts[0] as Leaf, "maxOutput", "output limit", "likely");
  for (const leaf of free().filter(({ value }) => typeof value === "number"))
    notes.missing.push(`What ${pathTo(leaf.steps)} (${leaf.value}) means: it stays as it is.`);

  const flags = free().filter(({ value }) => value === true);
  const named = flags.find(({ steps }) => isNamed(steps.slice(-1), /^(?:stream|streaming|streamed)$/));
  const flag = named ?? (streams && flags.length === 1 ? flags[0] : undefined);
  if (flag) put(flag, "stream", "stream", named ? "sure" : "likely");
  for (const { steps } of flags.filter((each) => each !== flag && isNamed(each.steps.slice(0, 1), /^stream/))) {
    const owner = steps.slice(0, 1);
    set(document, owner, { "<if>": "stream", as: at(document, owner) });
    taken.add(pathTo(owner));
    notes.found("request", "only when streaming", pathTo(owner), "likely");
  }
}

function fitsSetting(name: string, value: number): boolean {
  if (name === "temperature") return value >= 0 && value <= 2;
  if (name === "topP") return value > 0 && value <= 1;
  return Number.isInteger(value);
}

function fitModel(
  document: unknown,
  url: URL | undefined,
  query: Record<string, string>,
  taken: Set<string>,
  notes: Notes,
): string {
  const inBody = leavesOf(document).filter(
    ({ steps, value }) => !isTaken(steps, taken) && typeof value === "string" && /^[\w.:/-]+$/.test(value),
  );
  const named = inBody.find(({ steps }) => isNamed(steps.slice(-1), /^(?:model|models|engine|deployment)$/));
  const inQuery = Object.entries(query).filter(([, value]) => !value.includes("<"));
  const namedQuery = inQuery.find(([name]) => wordsIn(name).includes("model"));
  const afterModels = url && /\/(?:models?|engines?|deployments?)\/([^/]+)/.exec(url.pathname)?.[1];
  if (named) return put(named, "sure");
  if (namedQuery) {
    notes.found("request", "model", `?${namedQuery[0]}`, "sure");
    return namedQuery[1];
  }
  if (afterModels !== undefined) {
    notes.found("request", "model", "the path", "sure");
    return plainName(afterModels);
  }
  const parts = (url?.pathname ?? "").split("/").filter((part) => part !== "" && !/^(?:api|v\d+)$/.test(part));
  const candidates = [
    ...new Set([
      ...inBody.map(({ value }) => String(value)),
      ...inQuery.map(([, value]) => value),
      ...(inBody.length === 0 ? parts : []),
    ]),
  ];
  const only = inBody.length === 1 && inQuery.length === 0 ? inBody[0] : undefined;
  if (only) return put(only, "likely");
  const said = notes.ask({ id: "model", ask: "Which of these is the model's name?", choices: candidates });
  if (said === undefined) return "";
  const leaf = inBody.find(({ value }) => value === said);
  if (leaf) return put(leaf, "sure");
  notes.found("request", "model", inQuery.some(([, value]) => value === said) ? "the query" : "the path", "sure");
  return said;

  function put(leaf: Leaf, certainty: "sure" | "likely"): string {
    set(document, leaf.steps, "<model>");
    notes.found("request", "model", pathTo(leaf.steps), certainty);
    return String(leaf.value);
  }
}

function plainName(escaped: string): string {
  try {
    return decodeURIComponent(escaped);
  } catch {
    return escaped;
  }
}

function isTaken(steps: Steps, taken: Set<string>): boolean {
  return steps.some((_, length) => taken.has(pathTo(steps.slice(0, length + 1))));
}
