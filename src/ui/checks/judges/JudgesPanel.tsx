import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { jobs } from "@/contract/jobs";
import { type JudgedRubric, type Judges, judges } from "@/contract/judges";
import type { Provider } from "@/contract/providers";
import type { Agreement } from "@/core/checks/rubric";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { listed } from "../../shared/candidate/candidate-words";
import { Panel } from "../../shared/candidate/Panel";
import { many } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { isRunning, useJobs } from "../../shared/jobs/use-jobs";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys, modelChoices } from "../../shared/queries";
import tables from "../../shared/table.module.css";
import { useChange } from "../../shared/use-change";
import { ByHand } from "./ByHand";
import styles from "./judges.module.css";

/** Who judges replies by rubrics, and how far that agrees with what the developer judged by hand. */
export function JudgesPanel({
  slug,
  providers,
  onClose,
}: {
  slug: string;
  providers: readonly Provider[];
  onClose: () => void;
}) {
  const [open, setOpen] = useState<string>();
  // the one that runs, or the last one: it may have ended before it was seen to run
  const last = useJobs().find((job) => job.app === slug && job.work.kind === "judging");
  const work = last && isRunning(last) ? last : undefined;
  const asked = last && `${last.id} ${last.state} ${last.done}`;
  const { data, error } = useQuery({
    queryKey: [...keys.judges(slug), asked],
    queryFn: () => server.send(judges.read, { slug }),
    placeholderData: (before) => before,
    staleTime: 0,
  });
  const choosing = useChange(
    "The judge",
    (judge: Judges["judge"]) => server.send(judges.choose, { slug, body: { judge } }),
    [keys.judges(slug)],
  );
  const asking = useChange(
    "Asking the judge",
    (rubric: string) => server.send(judges.ask, { slug, body: { rubric } }),
    [keys.judges(slug), keys.jobs],
  );
  const stopping = useChange("Stopping it", (id: string) => server.send(jobs.stop, { id }), [keys.jobs]);
  const problem = error?.problem ?? choosing.problem ?? asking.problem ?? stopping.problem;
  return (
    <Panel label="Judges" onClose={onClose}>
      {problem && <ProblemNote problem={problem} />}
      {data && (
        <>
          <p>
            Rubrics are judged by{" "}
            <ChoiceValue
              label="Who judges"
              value={data.judge ? `${data.judge.provider} ${data.judge.model}` : ""}
              options={[
                { value: "", label: "nobody yet" },
                ...modelChoices(providers).map(({ provider, model }) => ({
                  value: `${provider.slug} ${model.name}`,
                  label: `${model.name} on ${provider.name}`,
                })),
              ]}
              onChange={(next) => {
                const [provider = "", model] = next.split(/ (.*)/s);
                choosing.run(model === undefined ? null : { provider, model });
              }}
            />
            . What a judge says is an opinion until it agrees with what you judged by hand: at least {data.enoughByHand}{" "}
            replies that meet the rubric and as many that miss it, each with an interval that begins at{" "}
            {percent(data.enoughAgreement)} or above.
          </p>
          <table className={tables.table}>
            <thead>
              <tr>
                <th scope="col">rubric</th>
                <th scope="col">agrees on those that meet it</th>
                <th scope="col">agrees on those that miss it</th>
                <th scope="col">
                  <span className="unseen">acts</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.rubrics.map((rubric) => (
                <RubricRow
                  key={rubric.rubric}
                  rubric={rubric}
                  isOpen={open === rubric.rubric}
                  canAsk={data.judge !== null && work === undefined}
                  onOpen={() => setOpen(open === rubric.rubric ? undefined : rubric.rubric)}
                  onAsk={() => asking.run(rubric.rubric)}
                />
              ))}
            </tbody>
          </table>
          {data.rubrics.length === 0 && (
            <p>
              No check has a rubric yet. Write one as an expectation: <code>meets "is polite"</code>.
            </p>
          )}
          {work && (
            <p role="status">
              Asks the judge: {work.done} of {work.of}. <Action onClick={() => stopping.run(work.id)}>stop</Action>
            </p>
          )}
          {open !== undefined && <ByHand key={open} slug={slug} rubric={open} asked={asked} />}
        </>
      )}
      <div className={styles.acts}>
        <Action onClick={onClose}>fold</Action>
      </div>
    </Panel>
  );
}

function RubricRow({
  rubric: { rubric, checks, meets, misses, counts, unasked },
  isOpen,
  canAsk,
  onOpen,
  onAsk,
}: {
  rubric: JudgedRubric;
  isOpen: boolean;
  canAsk: boolean;
  onOpen: () => void;
  onAsk: () => void;
}) {
  return (
    <tr>
      <th scope="row">
        “{rubric}” <span className={counts ? styles.counts : styles.opinion}>{counts ? "counts" : "an opinion"}</span>
        <br />
        <small>{checks.length > 0 ? `in ${listed(checks)}` : "in no check any more"}</small>
      </th>
      <td>{agreed(meets)}</td>
      <td>{agreed(misses)}</td>
      <td>
        <Action aria-expanded={isOpen} onClick={onOpen}>
          {isOpen ? "fold" : "judge by hand"}
        </Action>{" "}
        {unasked > 0 && (
          <Button size="small" disabled={!canAsk} onClick={onAsk}>
            Ask the judge about {many(unasked, "reply", "replies")}
          </Button>
        )}
      </td>
    </tr>
  );
}

/** "28 of 30, 79% to 98%". */
function agreed({ agreed: some, of, low, high }: Agreement): string {
  return of === 0 ? "none judged by hand" : `${some} of ${of}, ${percent(low)} to ${percent(high)}`;
}

function percent(share: number): string {
  return `${Math.round(share * 100)}%`;
}
