import type { PastedRequest } from "../pasted/pasted";
import { isForOneCall, isSecretName, markOf } from "../pasted/secrets";
import { pathTo } from "../path";
import { type Leaf, leavesOf, type Notes, set, wordsIn } from "./finding";

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

/** A place in a request at which a secret stands. */
interface Place {
  /** The name of a hidden secret, or of an environment variable. */
  name: string;
  where: string;
  /** How sure it is that this is the key: by a standard, by its name, or only by how it looks. */
  strength: 1 | 2 | 3;
}

const secret = /•([\w.-]+)•|\$\{?([A-Za-z_]\w*)\}?/g;
/** Names of secrets that go along with a key, and are seldom the key themselves. */
const besideKeys = /^(?:cookie|session|sessionid|sid|csrf|xsrf|sig|signature|nonce|hmac)$/;

function secretsIn(text: string): string[] {
  return Array.from(text.matchAll(secret), ([, hidden, variable]) => hidden ?? variable ?? "");
}

/** Where a secret comes from, by how it is written in the pasted text. */
function sourceOf(name: string, pasted: string): PastedSecret {
  return pasted.includes(markOf(name)) ? { hidden: name } : { variable: name };
}

/** Finds every secret of a request, tells which is the key, and puts placeholders in their place. */
export function fitSecrets(pasted: PastedRequest, url: URL | undefined, document: unknown, notes: Notes) {
  const all = JSON.stringify([pasted.url, pasted.headers, pasted.user, pasted.body]);
  const kept = pasted.headers.filter(([name]) => {
    if (!isForOneCall(name)) return true;
    notes.missing.push(`The header ${name} was left out: it belongs to one call, and the next one needs another.`);
    return false;
  });
  const leaves = leavesOf(document).filter(
    (leaf): leaf is Leaf & { value: string } =>
      typeof leaf.value === "string" && secretsIn(leaf.value).join("") !== "" && !/\s/.test(leaf.value),
  );
  const path = plainPath(url);
  const places: Place[] = [
    ...(pasted.user === undefined
      ? []
      : [{ name: userSecret(pasted.user), where: "authorization", strength: 3 as const }]),
    ...kept.flatMap(([name, value]) =>
      secretsIn(value).map((each) => ({ name: each, where: name.toLowerCase(), strength: strengthOf(name) })),
    ),
    ...[...(url?.searchParams ?? [])].flatMap(([name, value]) =>
      secretsIn(value).map((each) => ({ name: each, where: `?${name}`, strength: strengthOf(name) })),
    ),
    ...secretsIn(path).map((name) => ({ name, where: "the path", strength: 1 as const })),
    ...leaves.flatMap(({ steps, value }) =>
      secretsIn(value).map((name) => ({ name, where: pathTo(steps), strength: strengthOf(String(steps.at(-1))) })),
    ),
  ];
  const key = keyAmong(places, notes);
  const extras: Record<string, PastedSecret> = {};
  const placed = (text: string) =>
    text.replaceAll("<", "<<").replace(secret, (_written, hidden?: string, variable?: string) => {
      const name = hidden ?? variable ?? "";
      if (name === key?.name) return "<key>";
      extras[name] = sourceOf(name, all);
      return `<extra:${name}>`;
    });

  const headers: Record<string, string> = {};
  for (const [written, value] of kept) {
    const name = written.toLowerCase();
    if (name !== "user-agent" && /^[\w!#$%&'*+.^`|~-]+$/.test(name)) headers[name] = placed(value);
  }
  const query = Object.fromEntries([...(url?.searchParams ?? [])].map(([name, value]) => [name, placed(value)]));
  for (const { steps, value } of leaves) set(document, steps, placed(value));
  let credential: FittedCredential = { kind: "none" };
  if (pasted.user !== undefined && key?.name === userSecret(pasted.user)) {
    headers.authorization = "Basic <key>";
    const [user = "", ...password] = pasted.user.split(":");
    credential =
      secretsIn(user).length > 0
        ? { kind: "key", secret: { pair: pasted.user } }
        : { kind: "basic", user, secret: secretOf(password.join(":"), all) };
  } else {
    if (pasted.user !== undefined) {
      headers.authorization ??= "Basic <extra:login>";
      extras.login = { pair: pasted.user };
    }
    if (key) credential = { kind: "key", secret: sourceOf(key.name, all) };
  }
  if (pasted.body !== "") headers["content-type"] ??= "application/json";
  for (const name of Object.keys(extras))
    notes.found("request", "further secret", places.find((each) => each.name === name)?.where ?? name, "sure");
  return { credential, extras, headers, query, path: placed(path) };
}

function secretOf(written: string, pasted: string): PastedSecret {
  const [name] = secretsIn(written);
  return name === undefined ? { pair: written } : sourceOf(name, pasted);
}

/** The name of the secret in `user:password`. */
function userSecret(user: string): string {
  const [name = "", ...password] = user.split(":");
  return secretsIn(password.join(":"))[0] ?? secretsIn(name)[0] ?? "login";
}

function strengthOf(name: string): Place["strength"] {
  const words = wordsIn(name);
  if (words.includes("authorization")) return words.includes("proxy") ? 1 : 3;
  if (!isSecretName(name) || words.some((word) => besideKeys.test(word))) return 1;
  return 2;
}

/** The secret that is the key: the only one that is named so, or the only one; else the developer says which. */
function keyAmong(places: Place[], notes: Notes): Place | undefined {
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

/** The path of an address, with the marks of hidden secrets as they are written. */
function plainPath(url: URL | undefined): string {
  return (url?.pathname ?? "/").replace(/%E2%80%A2([\w.-]+)%E2%80%A2/g, (_all, name: string) => markOf(name));
}
