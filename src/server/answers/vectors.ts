import type { VectorsStanding } from "@/contract/sources";
import { priceOf } from "@/core/tokens/price";
import type { StoredApp } from "../apps/app-store";
import type { HasJobs } from "../jobs/job-store";
import { cuttingsFor, type FindingNeeds } from "../sources/finding";
import { makerFor } from "../sources/making-vectors";

/** How the vectors of an app's passages stand, by its draft; null where that looks for nothing by meaning. */
export function vectorsAnswer(home: FindingNeeds & HasJobs, { id, draft }: StoredApp): VectorsStanding | null {
  const of = draft.sources?.meaning;
  if (!of) return null;
  const cuttings = [...cuttingsFor(home, draft).ready.keys()];
  const { passages, made } = home.vectors.counts(cuttings, home.vectors.space(of)?.id);
  const maker = makerFor(home, of);
  const tokens = made === passages ? 0 : Math.ceil((home.passages.tokens(cuttings) * (passages - made)) / passages);
  const last = home.jobs.latest().find(({ app, work }) => app === id && work.kind === "vectors");
  const failed = last?.state === "failed" || last?.state === "stopped" ? last.problem : null;
  if ("kind" in maker) return { passages, made, tokens, price: 0, currency: "EUR", isPriced: false, problem: maker };
  const { price } = maker.model;
  return {
    passages,
    made,
    tokens,
    price: priceOf({ input: tokens, output: 0 }, price),
    currency: price.currency,
    isPriced: !price.isUnset,
    problem: made === passages ? null : failed,
  };
}
