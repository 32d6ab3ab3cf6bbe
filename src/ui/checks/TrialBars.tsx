import type { Tally } from "@/core/checks/chance";
import { interval } from "@/core/checks/chance";
import { many } from "../shared/format";
import { Tip } from "../shared/Tip";
import styles from "./Checks.module.css";

/** Trials that have a bar each; of more, the share is drawn. */
const mostBars = 10;

/** How something came out in each trial: a small bar each, filled where it held, hollow where it broke, a line where it was silent. */
export function TrialBars({ outcomes, isQuiet = false }: { outcomes: string; isQuiet?: boolean }) {
  if (outcomes === "") return <span className={styles.none}>–</span>;
  const count = (letter: string) => [...outcomes].filter((each) => each === letter).length;
  const [held, broke, silent] = [count("h"), count("b"), count("s")];
  const tail = [broke > 0 && `${broke} broke`, silent > 0 && `${silent} silent`].filter(Boolean).join(", ");
  return (
    <Tip says={intervalWords({ held, of: held + broke }, silent)}>
      <span className={styles.bars} data-quiet={isQuiet} tabIndex={isQuiet ? undefined : 0}>
        <span className="unseen">
          {held} of {outcomes.length} held
        </span>
        {outcomes.length <= mostBars ? (
          [...outcomes].map((outcome, at) => <i key={at} data-outcome={outcome} aria-hidden="true" />)
        ) : (
          <span className={styles.share} data-broke={broke > 0} aria-hidden="true">
            <i style={{ width: `${(held / outcomes.length) * 100}%` }} />
          </span>
        )}
        {tail && <b data-broke={broke > 0}>{tail}</b>}
      </span>
    </Tip>
  );
}

/** What the share of trials that held says of those that were not made: Wilson's interval. */
export function intervalWords({ held, of }: Tally, silent: number): string {
  const also = silent > 0 ? `; ${many(silent, "trial")} had no answer to judge` : "";
  if (of === 0) return `No trial was judged${also}.`;
  const { low, high } = interval({ held, of });
  const percent = (share: number) => `${Math.round(share * 100)}%`;
  return `${held} of ${of} held: between ${percent(low)} and ${percent(high)} hold, 19 times in 20${also}.`;
}
