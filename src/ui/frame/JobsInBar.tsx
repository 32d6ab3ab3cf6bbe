import { type Job, jobs } from "@/contract/jobs";
import { server } from "../shared/api";
import { isRunning, percentOf, useJobs } from "../shared/jobs/use-jobs";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./Bar.module.css";

/** The jobs that run: what each does, how far it is, and how it is stopped. */
export function JobsInBar() {
  const running = useJobs().filter(isRunning);
  const stopping = useChange("Stopping it", (id: string) => server.send(jobs.stop, { id }), [keys.jobs]);
  if (running.length === 0) return null;
  return (
    // what runs is not read aloud at each step of it
    <div className={styles.jobs}>
      {running.slice(0, 2).map((job) => (
        <span key={job.id}>
          {wordsOf(job)}{" "}
          <button type="button" aria-label={`Stop: ${wordsOf(job)}`} onClick={() => stopping.run(job.id)}>
            stop
          </button>
        </span>
      ))}
      {running.length > 2 && <span>and {running.length - 2} more</span>}
    </div>
  );
}

function wordsOf(job: Job): string {
  const { work } = job;
  if (work.kind === "say-again") return `says again: ${job.done} of ${job.of}`;
  if (work.kind === "checks") return `runs checks: ${job.done} of ${job.of}`;
  if (work.kind === "set") return `asks a set: ${job.done} of ${job.of}`;
  if (work.kind === "judging") return `asks the judge: ${job.done} of ${job.of}`;
  if (work.kind === "vectors") return `makes vectors: ${job.done} of ${job.of}`;
  if (work.kind === "retrieval") return `tests retrieval: ${job.done} of ${job.of}`;
  if (work.kind === "proposing") return `proposes questions: ${job.done} of ${job.of}`;
  if (work.kind === "digest") return `makes a digest of ${work.title.slice(0, 30)}: ${job.done} of ${job.of}`;
  if (work.kind === "pages")
    return `has pages below ${new URL(work.start).host.slice(0, 30)}: ${job.done} of ${job.of}`;
  if (work.kind === "reading")
    return `${work.phase === "cutting" ? "cuts" : "reads"} ${work.title.slice(0, 30)}${job.of > 1 ? `: ${percentOf(job)}%` : ""}`;
  return `${work.phase === "storing" ? "imports" : "checks"} ${work.name.slice(0, 30)}: ${percentOf(job)}%`;
}
