import { type Problem, problem } from "../problem/problem";
import { type AnswerHead, aroundOf, problemIn, problemOf } from "./failure";
import { excerpt, parseJson } from "./json";
import type { CompiledProfile } from "./profile";

/** Vectors of texts, one of each in their order and all of one length, with the tokens that the provider counted. */
export interface Vectors {
  kind: "vectors";
  vectors: number[][];
  input?: number;
}

/** Numbers that a vector may have at most. */
const longestVector = 20_000;

/** Reads a whole answer as the vectors of so many texts. What can't be read is a problem; it never throws. */
export function vectorsIn(
  profile: CompiledProfile,
  head: AnswerHead,
  text: string,
  texts: number,
): Vectors | { kind: "problem"; problem: Problem } {
  const failed = (detail: string) => ({ kind: "problem" as const, problem: problem("bad-reply", detail) });
  const { embeddings } = profile;
  if (!embeddings) return failed("The wire profile does not say how vectors are asked for.");
  if (head.status >= 300 || head.status < 200) return { kind: "problem", problem: problemOf(profile, head, text) };
  const document = parseJson(text);
  if (document === undefined) return failed(`The answer is not JSON: ${excerpt(text)}`);
  const around = aroundOf(head);
  if (profile.problem.message.first(document) !== undefined)
    return { kind: "problem", problem: problemIn(profile, document, around) };
  const found = embeddings.each.all(document);
  if (found.length !== texts)
    return failed(`${texts} vectors were asked for, and ${found.length} stand at ${embeddings.each.source}.`);
  const vectors: number[][] = [];
  for (const [at, each] of found.entries()) {
    const vector = embeddings.vector.source === "@" ? each : embeddings.vector.first(each);
    const place = embeddings.place ? embeddings.place.first(each) : at;
    const isVector =
      Array.isArray(vector) &&
      vector.length > 0 &&
      vector.length <= longestVector &&
      vector.every((number) => typeof number === "number" && Number.isFinite(number));
    if (!isVector)
      return failed(`What stands at ${embeddings.vector.source} of vector ${at + 1} is no list of numbers.`);
    if (!Number.isInteger(place) || (place as number) < 0 || (place as number) >= texts || vectors[place as number])
      return failed(`Vector ${at + 1} is said to be of text ${JSON.stringify(place)}, and there are ${texts}.`);
    vectors[place as number] = vector;
  }
  const lengths = new Set(vectors.map(({ length }) => length));
  if (lengths.size > 1) return failed(`The vectors are of different lengths: ${[...lengths].join(", ")}.`);
  const input = embeddings.input?.first(document) ?? embeddings.input?.inHeaders(around.headers);
  const counted = Number(input);
  return {
    kind: "vectors",
    vectors,
    ...(Number.isInteger(counted) && counted >= 0 && input !== "" && input !== null && input !== undefined
      ? { input: counted }
      : {}),
  };
}
