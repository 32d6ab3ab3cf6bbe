import { percentEncoded } from "../json";
import { pathTo } from "../path";
import { isModelName, type Leaf, leavesOf, type Notes, set, wordsIn } from "./finding";
import { isTaken } from "./talk";

/** Where the model stands in a pasted request. */
export interface FittedModel {
  name: string;
  path: string;
  query: Record<string, string>;
}

/**
 * Finds the model's name: in the body, the query or the path, by what stands beside it, or since the answer names it too;
 * asks where several things could be it.
 * @param answer the texts of the pasted answer
 */
export function fitModel(
  document: unknown,
  path: string,
  query: Record<string, string>,
  answer: ReadonlySet<string>,
  taken: Set<string>,
  notes: Notes,
): FittedModel {
  const leaves = leavesOf(document).filter(
    (leaf): leaf is Leaf & { value: string } =>
      !isTaken(leaf.steps, taken) && typeof leaf.value === "string" && /^(?:[\w.:/-]+|\$\w+)$/.test(leaf.value),
  );
  const inQuery = Object.entries(query).filter(([, value]) => !value.includes("<"));
  const put = (leaf: Leaf & { value: string }, certainty: "sure" | "likely"): FittedModel => {
    set(document, leaf.steps, "<model>");
    taken.add(pathTo(leaf.steps));
    notes.found("request", "model", pathTo(leaf.steps), certainty);
    return { name: leaf.value, path, query };
  };
  const found = (name: string, where: string): FittedModel => {
    notes.found("request", "model", where, "sure");
    return {
      name,
      path: path.replaceAll(percentEncoded(name), "<model>").replaceAll(name, "<model>"),
      query: Object.fromEntries(inQueryFilled(name)),
    };
  };
  const inQueryFilled = (name: string) =>
    Object.entries(query).map(([key, value]) => [key, value === name ? "<model>" : value]);

  const told = leaves.find(({ steps }) => notes.meaningAt("request", pathTo(steps)) === "model");
  if (told) return put(told, "sure");
  const named = leaves.find(({ steps }) => isModelName(steps));
  if (named) {
    const [, variable] = /^\$(\w+)$/.exec(named.value) ?? [];
    if (variable) notes.missing.push(`The model: its name stands in the variable ${variable}. Give it below.`);
    return put(named, "sure");
  }
  const namedQuery = inQuery.find(([name]) => wordsIn(name).includes("model"));
  if (namedQuery) return found(namedQuery[1], `?${namedQuery[0]}`);
  const [, before = "", afterModels] = /^(.*\/(?:models?|engines?|deployments?)\/)([^?]+)/.exec(path) ?? [];
  if (afterModels !== undefined) {
    const name = nameInPath(afterModels, answer, notes);
    if (name === undefined) return { name: "", path, query };
    if (!name.includes("/") || path.includes(percentEncoded(name))) return found(plainName(name), "the path");
    notes.found("request", "model", "the path", "sure");
    return { name, path: `${before}<modelPath>${path.slice(before.length + name.length)}`, query };
  }
  const echoed = leaves.filter(({ value }) => answer.has(value));
  if (echoed.length === 1 && echoed[0]) return put(echoed[0], "sure");
  const [only, more] = leaves;
  if (only && !more && inQuery.length === 0) return put(only, "likely");
  const parts = path.split("/").filter((part) => part !== "" && !part.includes("<") && !/^(?:api|v\d+\w*)$/.test(part));
  const choices = [
    ...new Set([...leaves.map(({ value }) => value), ...inQuery.map(([, value]) => value), ...(only ? [] : parts)]),
  ];
  if (choices.length === 0) return { name: "", path, query };
  const said = notes.ask({ id: "model", ask: "Which of these is the model's name?", choices });
  if (said === undefined) return { name: "", path, query };
  const leaf = leaves.find(({ value }) => value === said);
  return leaf ? put(leaf, "sure") : found(said, inQuery.some(([, value]) => value === said) ? "the query" : "the path");
}

/**
 * The model's name at the beginning of what is left of a path. It may have slashes: of several parts the answer says how many
 * are its name, or the developer.
 */
function nameInPath(rest: string, answer: ReadonlySet<string>, notes: Notes): string | undefined {
  const parts = rest.split("/").filter((part) => part !== "");
  const [first = ""] = parts;
  const withoutVerb = (name: string) => name.replace(/:[A-Za-z]+$/, "");
  const names = parts.map((_, at) => withoutVerb(parts.slice(0, at + 1).join("/")));
  const echoed = names.findLast((name) => answer.has(plainName(name)));
  if (echoed !== undefined) return echoed;
  // one part, or one and a verb
  if (parts.length === 1 || (parts.length === 2 && /^[a-z]+(?:[-_:][a-z]+)*$/i.test(parts[1] as string)))
    return withoutVerb(first);
  return notes.ask({ id: "model", ask: "Which part of the path is the model's name?", choices: [...new Set(names)] });
}

function plainName(escaped: string): string {
  try {
    return decodeURIComponent(escaped);
  } catch {
    return escaped;
  }
}
