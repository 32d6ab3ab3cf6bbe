import type { Job } from "@/contract/jobs";
import type { Home } from "../home";
import type { StoredJob } from "../jobs/job-store";
import { refuse } from "../refusal";

/** A job as the bench is told of it. */
export function jobAnswer({ apps, runner }: Home, stored: StoredJob): Job {
  const { app, price, mostPrice, createdAt, ...job } = runner.standing(stored);
  return {
    ...job,
    app: apps.byId(app)?.slug ?? "",
    price: price / 1_000_000,
    mostPrice: mostPrice === null ? null : mostPrice / 1_000_000,
    at: createdAt,
  };
}

/** A job by its id. @throws {Refusal} `not-found` */
export function jobAt({ jobs }: Home, id: string): StoredJob {
  return jobs.byId(id) ?? refuse("not-found", `There is no job ${id}.`);
}
