import { type Problem, problem } from "@/core/problem/problem";
import type { Limits } from "@/core/provider/limits";
import { cosine, unitVector } from "@/core/sources/meaning";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { priceOf } from "@/core/tokens/price";
import { encodeTexts } from "@/core/wire/encode";
import { vectorsIn } from "@/core/wire/vectors";
import { addressOf } from "../exchange/connection";
import { type HasCredentials, withKeyAdvice } from "../exchange/credentials";
import { rawAnswer } from "../exchange/raw-answer";
import type { HasProviders, StoredModel, StoredProvider } from "../providers/provider-store";
import type { HasSpend } from "../spend/spend-store";
import type { HasVectors, VectorModel, VectorSpace } from "./vector-store";

/** What of the process is used here. */
export type MakingVectorsNeeds = HasProviders & HasCredentials & HasSpend & HasVectors;

/** A text whose vector is known, by which a model shows whether it still makes them as it did. */
export const knownText = "The boat leaves the quay at twenty to ten, with two bicycles on board.";
/** How alike two vectors of one text are at least: a model rounds, and no more. */
const leastAlike = 0.98;

/** A model that makes vectors, as it is asked. */
export interface VectorMaker {
  connection: StoredProvider;
  model: StoredModel;
}

/**
 * What came of texts: a vector of length one for each, undefined for a text that points nowhere, and what they cost; or why
 * there are none.
 */
export type MadeVectors =
  | { kind: "made"; vectors: (Float32Array | undefined)[]; tokens: number; price: number }
  | { kind: "problem"; problem: Problem };

/** The model that makes vectors, or why it can't. */
export function makerFor({ providers }: HasProviders, of: VectorModel): VectorMaker | Problem {
  const connection = providers.bySlug(of.provider);
  if (!connection)
    return problem("misconfigured", "The provider that makes vectors is not there any more.", {
      advice: "Choose another in the Sources station.",
    });
  const model = providers.model(connection.id, of.model);
  if (!model) return problem("unknown-model", `${connection.name} has no model ${of.model}.`);
  if (!connection.profile.embeddings)
    return problem("misconfigured", `The wire profile of ${connection.name} does not say how vectors are asked for.`, {
      advice: "Add `embeddings` to it, or choose another in the Sources station.",
    });
  return { connection, model };
}

/** Has a model make vectors of texts, in one call. What it costs is noted for an app. */
export async function makeVectors(
  home: MakingVectorsNeeds,
  { connection, model }: VectorMaker,
  all: readonly string[],
  { app, limits = connection.limits, signal }: { app: string; limits?: Limits; signal?: AbortSignal },
): Promise<MadeVectors> {
  const failed = (of: Problem): MadeVectors => ({ kind: "problem", problem: of });
  const texts = all.map((text) => fitting(text, model.window));
  const resolved = await home.credentials.resolve(connection);
  if (resolved.problem) return failed(resolved.problem);
  const { key, extras, values, secrets, way } = resolved;
  const request = encodeTexts(connection.profile, { model: model.name, key, extras, values, texts });
  if (!request) return failed(problem("misconfigured", "The wire profile does not say how vectors are asked for."));
  const signed = await home.credentials.sign(
    connection,
    {
      method: request.method,
      url: addressOf(connection, request, values),
      headers: { ...request.headers, ...resolved.headers },
      body: request.body,
    },
    secrets,
    AbortSignal.timeout(limits.all),
  );
  if (signed.problem) return failed(signed.problem);
  const answer = await rawAnswer(signed.outgoing, limits, secrets, way, signal);
  if (answer.problem) return failed(answer.problem);
  const read = vectorsIn(
    connection.profile,
    { status: answer.status ?? 0, contentType: answer.contentType, headers: answer.headers, streamed: false },
    answer.text,
    texts.length,
  );
  if (read.kind === "problem") return failed(withKeyAdvice(read.problem, connection.credential));
  const vectors = read.vectors.map(unitVector);
  const counts = { input: read.input ?? texts.reduce((sum, text) => sum + rawTokens(countsOf(text)), 0), output: 0 };
  const price = priceOf(counts, model.price);
  const usage = { ...counts, estimated: read.input === undefined, price, currency: model.price.currency };
  const on = { app, revision: null, content: null, owner: null, origin: "job", purpose: "vectors" } as const;
  home.spend.add(on, { provider: connection.slug, model: model.name }, usage, Date.now());
  return { kind: "made", vectors, tokens: counts.input, price };
}

/** The share of a model's window that a text is given: how its provider counts is not known. */
const shareOfWindow = 0.7;

/** As much of a text, from its beginning, as a model has room for. */
function fitting(text: string, window: number): string {
  const tokens = rawTokens(countsOf(text));
  const room = window * shareOfWindow;
  return tokens <= room ? text : text.slice(0, Math.floor((text.length * room) / tokens));
}

/** Why there is no vector of a text. */
export const pointsNowhere = problem("bad-reply", "A vector holds nothing but zeros, or numbers that are none.");

/**
 * The space of a model, for vectors that were made just now beside that of the known text: begun where there is none.
 * @returns a problem where the model makes them otherwise than it did
 */
export function spaceFor({ vectors }: HasVectors, of: VectorModel, known: Float32Array): VectorSpace | Problem {
  const space = vectors.space(of);
  if (!space) return vectors.begin(of, known);
  const advice = "Have the vectors made anew in the Sources station: until then it is looked for by words alone.";
  if (space.length !== known.length)
    return problem(
      "bad-reply",
      `${of.model} makes vectors of ${known.length} numbers now, and those that are kept have ${space.length}.`,
      { advice },
    );
  if (cosine(space.known, known) < leastAlike)
    return problem("bad-reply", `${of.model} makes other vectors than it did: it was changed.`, { advice });
  return space;
}
