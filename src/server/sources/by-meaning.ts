import { LRUCache } from "lru-cache";
import type { Problem } from "@/core/problem/problem";
import type { Near } from "@/core/sources/meaning";
import { knownText, type MakingVectorsNeeds, makerFor, makeVectors, pointsNowhere, spaceFor } from "./making-vectors";
import type { Nearest, NearestInput, VectorModel, VectorSpace } from "./vector-store";

/** What of the process is used here. */
export type MeaningNeeds = MakingVectorsNeeds & HasMeaning;

/** Characters of a message that are looked for: the first words tell what it is about. */
const longestQuestion = 1_500;
/** Failures of a provider that no question is the reason of, and that others would wait for, too. */
const lasting: ReadonlySet<Problem["kind"]> = new Set(["unreachable", "timed-out", "rate-limited", "overloaded"]);
/** Milliseconds that the vector of a question may take: a reply waits for it. */
const questionLimits = { connect: 1_000, first: 2_500, between: 2_500, all: 2_500 };
/** Milliseconds for which a provider that failed is not asked again, so that no reply waits for one that is gone. */
const restAfterFailure = 10_000;
/** Milliseconds after which it is looked whether a model still makes the same vectors. */
const knownFor = 10 * 60_000;
/** Vectors of questions that are kept at hand; they stand nowhere else. */
const mostQuestions = 500;
/** Passages that are compared with each other, of all that are near. */
const mostNear = 40;

/** What is at hand for questions: their vectors, and what is known of those who make them. */
export class Meaning {
  /** @param nearest looks through the vectors of passages, beside the streams */
  constructor(readonly nearest: (input: NearestInput) => Promise<Nearest>) {}

  readonly questions = new LRUCache<string, Float32Array>({ max: mostQuestions });
  /** By provider and model: until when it is not asked, and why. */
  readonly failed = new Map<string, { until: number; problem: Problem }>();
  /** By provider and model: when it last made the vector of the known text as before. */
  readonly known = new Map<string, number>();

  /** Forgets what is known of a model, which is to be asked anew. */
  forget(of: VectorModel): void {
    const key = keyOf(of);
    this.failed.delete(key);
    this.known.delete(key);
    for (const question of [...this.questions.keys()])
      if (question.startsWith(`${key} `)) this.questions.delete(question);
  }
}

/** A parameter that has `meaning`. */
export interface HasMeaning {
  meaning: Meaning;
}

/** The passages that are near a question, or why they can't be told. */
export type NearPassages = { kind: "near"; near: Near[]; looked: number } | { kind: "problem"; problem: Problem };

/**
 * Finds the passages of some cuttings that mean much the same as a question.
 * @returns with how many passages were looked at: those whose vectors are made
 */
export async function nearPassages(
  home: MeaningNeeds,
  app: string,
  of: VectorModel,
  cuttings: readonly number[],
  question: string,
  signal?: AbortSignal,
): Promise<NearPassages> {
  const asked = await questionVector(home, app, of, question.slice(0, longestQuestion), signal);
  if (asked.kind === "problem") return asked;
  const { space, vector } = asked;
  const { id, length } = space;
  const found = await home.meaning.nearest({ space: { id, length }, cuttings, query: vector, most: mostNear });
  return { kind: "near", ...found };
}

async function questionVector(
  home: MeaningNeeds,
  app: string,
  of: VectorModel,
  question: string,
  signal?: AbortSignal,
): Promise<{ kind: "vector"; space: VectorSpace; vector: Float32Array } | { kind: "problem"; problem: Problem }> {
  const { meaning, vectors } = home;
  const key = keyOf(of);
  const now = Date.now();
  const failed = meaning.failed.get(key);
  if (failed && now < failed.until) return { kind: "problem", problem: failed.problem };
  const before = vectors.space(of);
  const isKnown = before !== undefined && now - (meaning.known.get(key) ?? 0) < knownFor;
  const kept = meaning.questions.get(`${key} ${question}`);
  if (isKnown && kept?.length === before.length) return { kind: "vector", space: before, vector: kept };
  const fail = (problem: Problem) => {
    // whoever asked may have gone away, which says nothing of the provider
    if (!signal?.aborted) meaning.failed.set(key, { until: Date.now() + restAfterFailure, problem });
    return { kind: "problem", problem } as const;
  };
  const maker = makerFor(home, of);
  if ("kind" in maker) return { kind: "problem", problem: maker };
  const texts = isKnown ? [question] : [question, knownText];
  const made = await makeVectors(home, maker, texts, { app, limits: questionLimits, signal });
  if (made.kind === "problem") return lasting.has(made.problem.kind) ? fail(made.problem) : made;
  const [vector, known = isKnown ? before.known : undefined] = made.vectors;
  if (!vector || !known) return { kind: "problem", problem: pointsNowhere };
  const space = spaceFor(home, of, isKnown && before.length !== vector.length ? vector : known);
  if ("kind" in space) return fail(space);
  meaning.failed.delete(key);
  if (!isKnown) meaning.known.set(key, now);
  meaning.questions.set(`${key} ${question}`, vector);
  return { kind: "vector", space, vector };
}

function keyOf({ provider, model }: VectorModel): string {
  return `${provider} ${model}`;
}
