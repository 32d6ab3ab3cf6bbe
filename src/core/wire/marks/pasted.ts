import { getNodePath, getNodeValue, parseTree } from "jsonc-parser";
import type { Finding, Fitting } from "../fitting/fit";
import { generalPath } from "../fitting/series";
import { parseShallow } from "../json";
import { requestIn } from "../pasted/request";
import { pathTo } from "../path";
import type { CompiledProfile } from "../profile";
import { cut, joined, leafNodes, markedAnswer, printed, type Segment, type Tone } from "./marks";

/** How what was found is drawn, by its first words. */
const tones: [RegExp, Tone][] = [
  [/^(?:text|thought|messages|newest|system|role|visitor|app)/, "said"],
  [/^usage/, "usage"],
  [/^(?:finish|end|error)/, "end"],
];

const toneOf = (what: string): Tone => tones.find(([words]) => words.test(what))?.[1] ?? "setting";

/** As what fitting finds things that are otherwise called where they are read. */
const findingOf: Record<string, string> = {
  end: "finish",
  "of it thought": "usage of thought",
  tool: "tool call",
  arguments: "tool call",
  take: "which take",
};

/** The places of a path with each of its indexes as any, one at a time: `$.m[0].t[0]` as `$.m[*].t[0]` and `$.m[0].t[*]`. */
function widened(where: string): string[] {
  return [
    where,
    ...Array.from(
      where.matchAll(/\[\d+\]/g),
      ({ 0: index, index: at }) => `${where.slice(0, at)}[*]${where.slice(at + index.length)}`,
    ),
  ];
}

/** What is taken whole, with all that stands in it. */
const wholes = /^(?:tools|schema|stop words|only when streaming|takes)$/;

function findingAt(findings: readonly Finding[], where: string): Finding | undefined {
  const wheres = widened(where);
  const own = findings.find((each) => wheres.includes(each.where));
  return own ?? findings.find((each) => wholes.test(each.what) && where.startsWith(each.where));
}

/** A pasted request as it was read, each of its parts with what it was taken for and how sure that is. */
export function pastedRequest(pasted: string, { findings, questions }: Fitting): Segment[] {
  const read = requestIn(pasted);
  if (read.kind === "none") return [];
  const { method, url, headers, body } = read.request;
  const own = findings.filter((each) => each.in === "request");
  const part = (text: string, where: string): Segment => {
    const found = own.find((each) => each.where === where);
    return found
      ? { text, mark: { what: found.what, tone: toneOf(found.what) }, place: { where, standing: found.certainty } }
      : { text };
  };
  const [, start = "", path = ""] = /^(https?:\/\/[^/?#]*)?([\s\S]*)$/.exec(url) ?? [];
  const [, plain = "", query = ""] = /^([^?]*)(\?[\s\S]*)?$/.exec(path) ?? [];
  const segments: Segment[] = [{ text: `${method} ` }, part(start, "the address"), part(plain || "/", "the path")];
  // each of the pairs by itself, since one of them may be the key
  for (const pair of query.split(/(?=[?&])/).filter(Boolean)) {
    const [, name = pair, value = ""] = /^([?&][^=]*=?)([\s\S]*)$/.exec(pair) ?? [];
    segments.push({ text: name }, part(value, `?${name.replace(/^[?&]|=$/g, "")}`));
  }
  segments.push({ text: "\n" });
  for (const [name, value] of headers)
    segments.push({ text: `${name}: ` }, part(value, name.toLowerCase()), { text: "\n" });
  if (body === "") return joined(segments);
  segments.push({ text: "\n" });
  const document = parseShallow(body);
  if (typeof document !== "object" || document === null) return joined([...segments, { text: body }]);
  const text = printed(document, "")
    .map((each) => each.text)
    .join("");
  const tree = parseTree(text);
  if (!tree) return joined([...segments, { text }]);
  const isAsked = (where: string, value: unknown) =>
    questions.some(
      ({ id, choices }) =>
        (id === "model" && choices?.includes(String(value))) || (id === "key" && choices?.includes(where)),
    );
  const stretches = leafNodes(tree).map(({ offset, length, node }) => {
    const where = pathTo(getNodePath(node));
    const found = findingAt(own, where);
    const standing = isAsked(where, getNodeValue(node)) ? "asked" : (found?.certainty ?? "nothing");
    return {
      from: offset,
      to: offset + length,
      ...(found ? { mark: { what: found.what, tone: toneOf(found.what) } } : {}),
      place: { where, standing } as const,
    };
  });
  return joined([...segments, ...cut(text, stretches)]);
}

/** A pasted answer as it is read by a proposal, each of its parts with what it was taken for and how sure that is. */
export function pastedAnswer(answer: string, profile: CompiledProfile, { findings, questions }: Fitting): Segment[] {
  const own = findings.filter((each) => each.in === "answer");
  return markedAnswer(profile, answer, (document, steps, what) => {
    const general = generalPath(document, [...steps]);
    const value = steps.reduce<unknown>((each, step) => (each as Record<string | number, unknown>)?.[step], document);
    const isAsked =
      value !== "" &&
      questions.some(({ id, choices }) => (id === "text" && choices?.includes(general)) || id === `finish ${value}`);
    if (isAsked) return { where: general, standing: "asked" };
    if (what === undefined) return { where: general, standing: "nothing" };
    const found = own.find((each) => each.what === (findingOf[what.split(":")[0] as string] ?? what));
    return { where: general, standing: found?.certainty ?? "likely" };
  });
}
