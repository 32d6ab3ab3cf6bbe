import type { Job } from "@/contract/jobs";
import type { HasApps } from "../apps/app-store";
import { refuse } from "../ground/refusal";
import type { HasJobs, StoredJob } from "../jobs/job-store";
import type { HasRunner } from "../jobs/runner";

/** A job as the bench is told of it. */
export function jobAnswer({ apps, runner }: HasApps & HasRunner, stored: StoredJob): Job {
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
export function jobAt({ jobs }: HasJobs, id: string): StoredJob {
  return jobs.byId(id) ?? refuse("not-found", `There is no job ${id}.`);
}
