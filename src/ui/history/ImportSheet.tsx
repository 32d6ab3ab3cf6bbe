import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef, useState } from "react";
import { addressFor } from "@/contract/call";
import { CallFailed } from "@/contract/client";
import { type Job, jobs, largestPart } from "@/contract/jobs";
import { benchProblemSchema } from "@/contract/problem";
import type { CheckedImport } from "@/core/jobs/work";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { count, many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { isRunning, percentOf, useJobs } from "../shared/jobs/use-jobs";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./ImportSheet.module.css";

type Form = "jsonl" | "columns";

/** Imports a file: it is sent in parts and checked, shown before anything is stored, and then stored whole or not at all. */
export function ImportSheet({ slug, onClose }: { slug: string; onClose: () => void }) {
  const client = useQueryClient();
  const [form, setForm] = useState<Form>("jsonl");
  const [id, setId] = useState<string>();
  const input = useRef<HTMLInputElement>(null);
  const job = useJobs().find((each) => each.id === id);
  const sending = useChange(
    "Sending the file",
    async (file: File) => {
      const begun = await server.send(jobs.beginImport, {
        slug,
        body: { name: file.name.slice(0, 200) || "a file", as: form, bytes: file.size },
      });
      setId(begun.id);
      for (let from = 0; from < file.size; from += largestPart) {
        await sendPart(begun.id, from, file.slice(from, from + largestPart));
        void client.invalidateQueries({ queryKey: keys.jobs });
      }
    },
    [keys.jobs],
  );
  const storing = useChange("The import", (job: string) => server.send(jobs.store, { id: job }), [keys.jobs]);
  const stopping = useChange("Stopping it", (job: string) => server.send(jobs.stop, { id: job }), [keys.jobs]);
  const problem = sending.problem ?? storing.problem ?? stopping.problem ?? job?.problem ?? undefined;
  const work = job?.work.kind === "import" ? job.work : undefined;
  return (
    <section className={styles.sheet} aria-labelledby="import">
      <h2 id="import">Import</h2>
      {problem && <ProblemNote problem={problem} />}
      {work?.checked && work.checked.unfitCount > 0 && <Unfit checked={work.checked} />}
      {(!job || job.state === "failed" || job.state === "stopped") && (
        <p className={styles.sentence}>
          Reads{" "}
          <ChoiceValue
            label="Form of the file"
            value={form}
            options={[
              { value: "jsonl", label: "a message a line, as JSON" },
              { value: "columns", label: "two columns, a question and its answer" },
            ]}
            onChange={(value) => setForm(value as Form)}
          />{" "}
          from <Action onClick={() => input.current?.click()}>a file</Action>.{" "}
          {form === "jsonl"
            ? 'A line needs a "role" (visitor or app) and a "text"; what was exported here has more.'
            : "Commas, semicolons or tabs part them."}
          <input
            ref={input}
            className="unseen"
            type="file"
            aria-label="File to import"
            tabIndex={-1}
            onChange={({ target }) => {
              const [file] = target.files ?? [];
              if (file) sending.run(file);
              target.value = "";
            }}
          />
        </p>
      )}
      {job && work && (
        <p className={styles.sentence} role={isRunning(job) ? undefined : "status"}>
          {standingOf(job, work.phase)}
        </p>
      )}
      {job?.state === "waiting" && work?.phase === "checked" && work.checked && <Preview checked={work.checked} />}
      <div className={styles.actions}>
        {job?.state === "waiting" && work?.phase === "checked" && work.checked && (
          <Button type="primary" onClick={() => storing.run(job.id)}>
            Import {many(work.checked.conversations, "conversation")}
          </Button>
        )}
        {job && (job.state === "running" || job.state === "waiting") && (
          <Action onClick={() => stopping.run(job.id)}>{job.state === "waiting" ? "don't import it" : "stop"}</Action>
        )}
        <Action onClick={onClose}>close</Action>
      </div>
    </section>
  );
}

/** Sends one part. @throws {CallFailed} */
async function sendPart(id: string, from: number, part: Blob): Promise<void> {
  const response = await fetch(addressFor(jobs.sendPart, { id, from }), { method: "PUT", body: part });
  if (response.ok) return;
  throw new CallFailed(benchProblemSchema.parse(await response.json()));
}

function standingOf(job: Job, phase: string): string {
  if (job.state === "done")
    return `All of it is here: ${job.work.kind === "import" ? many(job.work.checked?.conversations ?? 0, "conversation") : ""}.`;
  if (job.state === "stopped") return job.problem ? "" : "It was stopped, and nothing was imported.";
  if (job.state === "failed") return "";
  if (phase === "checked") return "It was read to its end, and every line fits. Nothing is stored yet.";
  const word = phase === "sending" ? "Sends" : phase === "storing" ? "Stores" : "Reads";
  return `${word} it: ${percentOf(job)}%`;
}

function Preview({ checked: { conversations, messages, preview } }: { checked: CheckedImport }) {
  return (
    <>
      <p className={styles.note}>
        {many(conversations, "conversation")}, {many(messages, "message")}:
      </p>
      <ol className={styles.list}>
        {preview.map(({ opening, messages: size }, at) => (
          <li key={at}>
            {opening} <small>{many(size, "message")}</small>
          </li>
        ))}
        {conversations > preview.length && <li>and {count(conversations - preview.length)} more</li>}
      </ol>
    </>
  );
}

function Unfit({ checked: { unfit, unfitCount } }: { checked: CheckedImport }) {
  return (
    <table className={styles.unfit}>
      <caption className="unseen">Lines that do not fit</caption>
      <tbody>
        {unfit.map(({ line, why }, at) => (
          <tr key={at}>
            <th scope="row">line {count(line)}</th>
            <td>{why}</td>
          </tr>
        ))}
        {unfitCount > unfit.length && (
          <tr>
            <th scope="row" />
            <td>and {count(unfitCount - unfit.length)} more</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
