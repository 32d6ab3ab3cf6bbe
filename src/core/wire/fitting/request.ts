import { excerpt, parseShallow } from "../json";
import { type PastedRequest, variableIn } from "../pasted/pasted";
import { pathTo } from "../path";
import type { WrittenProfile } from "../profile-schema";
import { leavesOf, type Notes, set, wordsIn } from "./finding";
import { type FittedCredential, type FittedSecrets, fitSecrets, type PastedSecret } from "./key";
import { fitModel } from "./model";
import { lastName } from "./naming";
import { fitOffers } from "./offers";
import type { PastedCall } from "./proof";
import { fitSettings } from "./settings";
import { fitTalk, isTaken } from "./talk";
import { listUntold } from "./untold";

/** What a pasted request tells of its provider and of its wire profile. */
export interface FittedRequest {
  address: string;
  credential: FittedCredential;
  /** Secrets beside the credential, by the names under which the profile has them. */
  extras: Record<string, PastedSecret>;
  /** Values of the provider's own, each as it is to be set. */
  values: Record<string, string>;
  model: string;
  /** Whether a command has to sign each request. */
  signs: boolean;
  request: WrittenProfile["request"];
  roles: WrittenProfile["roles"];
  /** The pasted call, to be made again from the proposal. */
  call: PastedCall;
}

/**
 * Reads a pasted request: which of its parts a profile fills, and with what.
 * @param streams whether its answer is a stream
 * @param answer the texts of its answer
 */
export function fitRequest(
  given: PastedRequest,
  streams: boolean,
  answer: ReadonlySet<string>,
  notes: Notes,
): FittedRequest {
  const { pasted, variable } = withAddress(given);
  notes.missing.push(...(pasted.notes ?? []));
  if (variable) notes.missing.push(`The address: it stands in the variable ${variable}. Give it below.`);
  if (pasted.url === "") notes.missing.push("The address: only a body was pasted. Give the address of the API.");
  const { document, isForm } = bodyOf(pasted, notes);
  const taken = new Set<string>();
  const fitted = fitSecrets(pasted, document, isForm, taken, notes);
  takeTold(document, fitted, taken, notes);
  const { roles, said } = fitTalk(document, taken, notes);
  const offers = fitOffers(document, taken, notes);
  const settings = fitSettings(document, taken, streams, notes);
  const { name, path, query } = fitModel(document, fitted.path, fitted.query, answer, taken, notes);
  listUntold(document, taken, notes);
  escapeRest(document, taken);
  const { stop, ...numbers } = settings.values;
  return {
    address: variable ? "" : fitted.address,
    credential: fitted.credential,
    extras: fitted.extras,
    values: fitted.values,
    signs: fitted.signs,
    // one that stands in a variable is not known
    model: name.startsWith("$") ? "" : name,
    roles,
    request: {
      method: pasted.method === "PUT" || pasted.method === "GET" ? pasted.method : "POST",
      path,
      ...(Object.keys(query).length > 0 ? { query } : {}),
      headers: fitted.headers,
      ...(isForm ? { bodyAs: "form" as const } : {}),
      ...(document === undefined ? {} : { body: document as never }),
    },
    call: {
      call: {
        model: name,
        stream: settings.stream ?? streams,
        settings: { ...numbers, ...(stop ? { stop: stop as string[] } : {}) },
        ...(settings.takes === undefined ? {} : { takes: settings.takes }),
        ...offers,
        ...fitted.filling,
      },
      ...said,
    },
  };
}

/** A request whose address is a variable, at an address that stands for it. */
function withAddress(pasted: PastedRequest): { pasted: PastedRequest; variable?: string } {
  const found = variableIn(pasted.url);
  if (!found) return { pasted };
  return { pasted: { ...pasted, url: `http://address${found.rest}` }, variable: found.variable };
}

/** What the developer says that it is a value of the provider's own, or nothing. */
function takeTold(document: unknown, fitted: FittedSecrets, taken: Set<string>, notes: Notes): void {
  for (const { steps, value } of document === undefined ? [] : leavesOf(document)) {
    const where = pathTo(steps);
    const meaning = notes.meaningAt("request", where);
    if (meaning === "value" && (typeof value === "string" || typeof value === "number") && !isTaken(steps, taken)) {
      const name = wordsIn(lastName(steps) ?? "value").join("-");
      fitted.values[name] = String(value);
      fitted.filling.values[name] = String(value);
      set(document, steps, `<value:${name}>`);
      taken.add(where);
      notes.found("request", "value", where, "sure");
    } else if (meaning === "nothing" && !isTaken(steps, taken)) {
      taken.add(where);
      notes.untold.push({ where, found: excerpt(JSON.stringify(value)) });
      if (typeof value === "string") set(document, steps, value.replaceAll("<", "<<"));
    }
  }
}

/** A body as a document: JSON, or the members of a form. */
function bodyOf({ body, headers }: PastedRequest, notes: Notes): { document: unknown; isForm: boolean } {
  if (body === "") {
    notes.missing.push("The body: the request has none, so nothing of it carries what is said.");
    return { document: undefined, isForm: false };
  }
  const document = parseShallow(body);
  if (document !== undefined) return { document, isForm: false };
  const type = headers.find(([name]) => name.toLowerCase() === "content-type")?.[1] ?? "";
  if (/x-www-form-urlencoded/i.test(type) || (type === "" && /^[\w.[\]-]+=/.test(body))) {
    const members = new Map<string, string | string[]>();
    for (const [name, value] of new URLSearchParams(body)) {
      const before = members.get(name);
      members.set(name, before === undefined ? value : [before, value].flat());
    }
    return { document: Object.fromEntries(members), isForm: true };
  }
  notes.missing.push("The body is no JSON that can be gone through, so nothing in it was found.");
  return { document: undefined, isForm: false };
}

/** Lets nothing that stays as it was pasted read like a placeholder of a template. */
function escapeRest(document: unknown, taken: ReadonlySet<string>): void {
  if (typeof document !== "object" || document === null) return;
  for (const { steps, value } of leavesOf(document))
    if (typeof value === "string" && value.includes("<") && !isTaken(steps, taken) && steps.length > 0)
      set(document, steps, value.replaceAll("<", "<<"));
}
