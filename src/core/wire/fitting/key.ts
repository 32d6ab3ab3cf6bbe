import type { PastedRequest } from "../pasted/pasted";
import { isForOneCall, isSecretName, markOf } from "../pasted/secrets";
import { pathTo } from "../path";
import { isModelName, type Leaf, leavesOf, type Notes, set, wordsIn } from "./finding";

/**
 * Where a secret comes from: an environment variable, what was hidden under a name, or `name:password` as
 * it was pasted, to be sent as RFC 7617 has it.
 */
export type PastedSecret = { variable: string } | { hidden: string } | { pair: string };

/** How a provider is to know its caller, as far as a request shows. */
export type FittedCredential =
  | { kind: "none" }
  | { kind: "key"; secret: PastedSecret }
  | { kind: "basic"; user: string; secret: PastedSecret };

/** What a request shows of who calls and of the values that it is called with. */
export interface FittedSecrets {
  /** The address, with values in it. */
  address: string;
  credential: FittedCredential;
  extras: Record<string, PastedSecret>;
  values: Record<string, string>;
  headers: Record<string, string>;
  query: Record<string, string>;
  path: string;
  /** Whether a header signs the request, so that a command has to make it anew for each. */
  signs: boolean;
  /** What is filled in to make the pasted request again. */
  filling: { key?: string; extras: Record<string, string>; values: Record<string, string> };
}

/** A place in a request at which something stands that is filled in: a hidden secret, or a variable. */
interface Place {
  /** The name of a hidden secret, or of an environment variable. */
  name: string;
  where: string;
  /** How sure it is that this is the key: by a standard, by its name, only by how it looks, or not at all. */
  strength: 0 | 1 | 2 | 3;
}

const filledIn = /•([\w.-]+)•|\$\{?([A-Za-z_]\w*)\}?/g;
/** Names of secrets that go along with a key, and are seldom the key themselves. */
const besideKeys = /^(?:cookie|session|sessionid|sid|csrf|xsrf|sig|signature|nonce|hmac)$/;

function namesIn(text: string): string[] {
  return Array.from(text.matchAll(filledIn), ([, hidden, variable]) => hidden ?? variable ?? "");
}

/** Where a secret comes from, by how it is written in the pasted text. */
function sourceOf(name: string, pasted: string): PastedSecret {
  return pasted.includes(markOf(name)) ? { hidden: name } : { variable: name };
}

/** Finds every secret of a request, tells which is the key, and puts placeholders in their place; variables that are no secret become values. */
export function fitSecrets(
  pasted: PastedRequest,
  document: unknown,
  isForm: boolean,
  taken: Set<string>,
  notes: Notes,
): FittedSecrets {
  const all = JSON.stringify([pasted.url, pasted.headers, pasted.user, pasted.body]);
  const { origin, path, search } = partsOf(pasted.url);
  let signs = false;
  const kept = pasted.headers.filter(([name, value]) => {
    if (isSignature(name)) {
      signs = true;
      // what prints it is read from no variable then
      const printed = namesIn(value).map((each) => `the variable ${each}.`);
      notes.missing = notes.missing.filter((sentence) => !printed.some((end) => sentence.endsWith(end)));
      notes.missing.push(
        `The header ${name} was left out: it signs one request, and the next needs another. Name the command that signs each.`,
      );
      return false;
    }
    if (!isForOneCall(name)) return true;
    notes.missing.push(`The header ${name} was left out: it belongs to one call, and the next one needs another.`);
    return false;
  });
  const leaves = leavesOf(document).filter(
    (leaf): leaf is Leaf & { value: string } =>
      typeof leaf.value === "string" &&
      namesIn(leaf.value).join("") !== "" &&
      !/\s/.test(leaf.value) &&
      // a model that stands in a variable is chosen like any other
      !isModelName(leaf.steps),
  );
  const places: Place[] = [
    ...namesIn(origin).map((name) => ({ name, where: "the address", strength: 0 as const })),
    ...(pasted.user === undefined
      ? []
      : [{ name: userSecret(pasted.user), where: "authorization", strength: 3 as const }]),
    ...kept.flatMap(([name, value]) =>
      namesIn(value).map((each) => ({ name: each, where: name.toLowerCase(), strength: strengthOf(name) })),
    ),
    ...search.flatMap(([name, value]) =>
      namesIn(value).map((each) => ({ name: each, where: `?${name}`, strength: strengthOf(name) })),
    ),
    ...namesIn(path).map((name) => ({ name, where: "the path", strength: 1 as const })),
    ...leaves.flatMap(({ steps, value }) =>
      namesIn(value).map((name) => ({ name, where: pathTo(steps), strength: strengthOf(String(steps.at(-1))) })),
    ),
  ];
  const valued = valuesAmong(places, all);
  const key = keyAmong(
    places.filter(({ name }) => !valued.has(name)),
    notes,
  );
  const extras: Record<string, PastedSecret> = {};
  const filling: FittedSecrets["filling"] = { extras: {}, values: {} };
  const placed = (text: string, escapes = true) =>
    (escapes ? text.replaceAll("<", "<<") : text).replace(filledIn, (written, hidden?: string, variable?: string) => {
      const name = hidden ?? variable ?? "";
      if (valued.has(name)) {
        filling.values[valueName(name)] = written;
        return `<value:${valueName(name)}>`;
      }
      if (name === key?.name) {
        filling.key = written;
        return "<key>";
      }
      extras[name] = sourceOf(name, all);
      filling.extras[name] = written;
      return `<extra:${name}>`;
    });

  const headers: Record<string, string> = {};
  for (const [written, value] of kept) {
    const name = written.toLowerCase();
    if (name !== "user-agent" && /^[\w!#$%&'*+.^`|~-]+$/.test(name)) headers[name] = placed(value);
  }
  const query = Object.fromEntries(search.map(([name, value]) => [name, placed(value)]));
  if (new Set(search.map(([name]) => name)).size < search.length)
    notes.missing.push("A name that stands in the query more than once: the last of its values was kept.");
  for (const { steps, value } of leaves) {
    set(document, steps, placed(value));
    taken.add(pathTo(steps));
  }
  const credential = credentialOf(pasted, key, headers, extras, all, notes);
  if (pasted.body !== "") headers["content-type"] ??= isForm ? "application/x-www-form-urlencoded" : "application/json";
  for (const name of Object.keys(extras))
    notes.found("request", "further secret", places.find((each) => each.name === name)?.where ?? name, "sure");
  for (const name of valued)
    notes.found("request", "value", places.find((each) => each.name === name)?.where ?? name, "sure");
  return {
    address: placed(origin, false),
    credential,
    extras,
    values: Object.fromEntries([...valued].map((name) => [valueName(name), `$${name}`])),
    headers,
    query,
    path: placed(path, false),
    signs,
    filling,
  };
}

/** Whether a header holds a signature of the request, by its name. */
function isSignature(name: string): boolean {
  return wordsIn(name).some((word) => /^(?:sign|signed|signature|hmac|digest|seal)$/.test(word));
}

/** The origin, the path and the query of an address, in which marks and variables stay as they are written. */
function partsOf(url: string): { origin: string; path: string; search: [name: string, value: string][] } {
  if (url === "") return { origin: "", path: "/", search: [] };
  const [, scheme = "", host = "", rest = ""] = /^(https?:\/\/)([^/?#]*)([\s\S]*)$/i.exec(url) ?? [];
  const isVaried = namesIn(host).length > 0;
  const parsed = new URL(isVaried ? `${scheme}host${rest}` : url);
  return {
    origin: isVaried ? scheme + host.replace(/\$\{(\w+)\}/g, "$$$1") : parsed.origin,
    path: parsed.pathname
      .replace(/%E2%80%A2([\w.-]+)%E2%80%A2/g, (_all, name: string) => markOf(name))
      .replace(/\$%7B(\w+)%7D/g, "$$$1"),
    search: [...parsed.searchParams],
  };
}

/**
 * The variables that are no secrets: those in the address, and beside a key those whose name and place say nothing of a
 * secret, such as a region or a project.
 */
function valuesAmong(places: readonly Place[], all: string): Set<string> {
  const hasKey = places.some(({ strength }) => strength >= 2);
  const isSecretAnywhere = (name: string) =>
    places.some((place) => place.name === name && place.strength >= 2) ||
    isSecretName(name) ||
    all.includes(markOf(name));
  const found = places.filter(
    ({ name, where, strength }) => !isSecretAnywhere(name) && (where === "the address" || (hasKey && strength <= 1)),
  );
  return new Set(found.map(({ name }) => name));
}

/** `FERRY_REGION` as the name of a value. */
function valueName(variable: string): string {
  return variable.toLowerCase().replaceAll("_", "-");
}

function credentialOf(
  pasted: PastedRequest,
  key: Place | undefined,
  headers: Record<string, string>,
  extras: Record<string, PastedSecret>,
  all: string,
  notes: Notes,
): FittedCredential {
  const { user } = pasted;
  if (user !== undefined && key?.name === userSecret(user)) {
    headers.authorization = "Basic <key>";
    const [name = "", ...password] = user.split(":");
    if (namesIn(name).length > 0) return { kind: "key", secret: { pair: user } };
    if (!user.includes(":")) return { kind: "basic", user: name, secret: askPassword(name, notes) };
    return { kind: "basic", user: name, secret: secretOf(password.join(":"), all) };
  }
  if (user !== undefined) {
    headers.authorization ??= "Basic <extra:login>";
    extras.login = { pair: user };
  }
  return key ? { kind: "key", secret: sourceOf(key.name, all) } : { kind: "none" };
}

/** curl asks for the password of a name that stands alone: so does the bench, by the variable that holds it. */
function askPassword(user: string, notes: Notes): PastedSecret {
  const said = notes.ask({
    id: "password",
    ask: `The command names ${user} without a password (-u ${user}). Which environment variable holds it?`,
    proposals: [`${user.toUpperCase().replace(/\W+/g, "_")}_PASSWORD`],
  });
  return { variable: said?.replace(/^\$/, "") || "PASSWORD" };
}

function secretOf(written: string, pasted: string): PastedSecret {
  const [name] = namesIn(written);
  return name === undefined ? { pair: written } : sourceOf(name, pasted);
}

/** The name of the secret in `user:password`. */
function userSecret(user: string): string {
  const [name = "", ...password] = user.split(":");
  return namesIn(password.join(":"))[0] ?? namesIn(name)[0] ?? "login";
}

function strengthOf(name: string): Place["strength"] {
  const words = wordsIn(name);
  if (words.includes("authorization")) return words.includes("proxy") ? 1 : 3;
  if (!isSecretName(name) || words.some((word) => besideKeys.test(word))) return 1;
  return 2;
}

/** The secret that is the key: the only one that is named so, or the only one; else the developer says which. */
function keyAmong(places: readonly Place[], notes: Notes): Place | undefined {
  const names = new Map(places.map((place) => [place.name, place]));
  for (const place of places) if (place.strength > (names.get(place.name)?.strength ?? 0)) names.set(place.name, place);
  const all = [...names.values()];
  const strong = all.filter(({ strength }) => strength >= 2);
  const only = strong.length === 1 ? strong[0] : all.length === 1 ? all[0] : undefined;
  if (only) {
    notes.found("request", "key", only.where, only.strength >= 2 ? "sure" : "likely");
    return only;
  }
  if (all.length === 0) return undefined;
  const said = notes.ask({
    id: "key",
    ask: "Several things in this request are secret. Which of them is the key that says who calls?",
    choices: all.map(({ where }) => where),
  });
  const chosen = all.find(({ where }) => where === said);
  if (chosen) notes.found("request", "key", chosen.where, "sure");
  return chosen;
}
