import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { addressFor } from "@/contract/call";
import type { Run } from "@/contract/checks";
import { recordings } from "@/contract/recordings";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { many, moment } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { useNow } from "../shared/use-now";
import styles from "./Checks.module.css";

/** What is recorded of an app, and of a run what playing it says. */
export function Recorded({ slug, run }: { slug: string; run: Run | undefined }) {
  const now = useNow();
  const file = useRef<HTMLInputElement>(null);
  const { data } = useQuery({
    // what a run records is there once it has ended
    queryKey: [...keys.recordings(slug), run?.id, run?.endedAt],
    queryFn: () => server.send(recordings.kept, { slug }),
  });
  const putting = useChange(
    "The file",
    async (given: File) => server.send(recordings.put, { slug, body: { text: await given.text() } }),
    [keys.recordings(slug)],
  );
  const deleting = useChange("What is recorded", () => server.send(recordings.delete, { slug }), [
    keys.recordings(slug),
  ]);
  if (!data) return null;
  const { count, bytes, most, oldest } = data;
  const problem = putting.problem ?? deleting.problem;
  return (
    <section className={styles.under} aria-label="What is recorded">
      <span>
        {count === 0 || oldest === null
          ? "Nothing is recorded yet."
          : `${many(count, "answer")} recorded, the oldest ${moment(oldest, now)}, ${megabytes(bytes)} of ${megabytes(most)}`}
      </span>
      {count > 0 && (
        <a href={addressFor(recordings.file, { slug })} download={`${slug}.recordings.jsonl`}>
          download them
        </a>
      )}
      <Action onClick={() => file.current?.click()}>take in a file</Action>
      {count > 0 && <Action onClick={() => deleting.run()}>let go of them</Action>}
      <input
        ref={file}
        hidden
        type="file"
        aria-label="File of recordings"
        accept=".jsonl"
        onChange={({ target }) => {
          const [given] = target.files ?? [];
          if (given) putting.run(given);
          target.value = "";
        }}
      />
      {run && run.answers !== "called" && (
        <span>
          This run {run.answers === "recorded" ? "called nobody" : "called nobody for what is recorded"}: it proves what
          is sent, read and shown. How a model answers is proven only by calling it.
        </span>
      )}
      {problem && <ProblemNote problem={problem} />}
    </section>
  );
}

function megabytes(bytes: number): string {
  return bytes < 100_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}
