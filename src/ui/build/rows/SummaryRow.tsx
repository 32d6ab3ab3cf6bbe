import dynamic from "next/dynamic";
import { useState } from "react";
import type { BenchSummary, SummarisingState } from "@/contract/summaries";
import type { Part } from "@/core/context/reach";
import { Fallible } from "../../shared/Fallible";
import { count, price } from "../../shared/format";
import { PlainText } from "../../shared/markdown/Markdown";
import { ProblemNote } from "../../shared/ProblemNote";
import { ProviderName } from "../../shared/ProviderName";
import { wordsFor } from "../../shared/reasons";
import type { SummaryActions } from "../use-summaries";
import { EditText } from "./EditText";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

interface Props {
  /** The summary that fits the line, and what becomes of it. */
  summary: BenchSummary | undefined;
  part: Part | null;
  /** The next one, where it is being made or could not be. */
  next: SummarisingState | null;
  /** Whether another model or prompt would make it now. */
  isStale: boolean;
  /** Whether its dispatches are unfolded under it. */
  isInspected: boolean;
  actions: SummaryActions & { inspect: (id: string) => void };
}

/** The summary of older turns, in their place: its words, its price, and how the next one stands. */
export function SummaryRow({
  summary,
  part,
  next,
  isStale,
  isInspected,
  actions,
  ...bracket
}: Props & Pick<Bracket, "first" | "last">) {
  // the one that is being put right, also where a newer one comes meanwhile
  const [edited, setEdited] = useState<BenchSummary>();
  const carried = summary !== undefined && part?.carried === true;
  return (
    <>
      <Row
        tone="prompt"
        turn={summary ? `to ${summary.turn}` : undefined}
        tokens={summary && part ? count(part.tokens) : undefined}
        carried={carried}
        {...bracket}
        label={summary ? `Summary of the turns up to ${summary.turn}` : "Summary"}
        side={
          summary && (
            <SummarySide {...{ summary, isStale, isInspected }} onInspect={() => actions.inspect(summary.id)} />
          )
        }
      >
        <span className={styles.who}>Summary</span>
        {summary === undefined ? (
          <span className={styles.waiting}>None yet that fits: what is older is carried as far as there is room.</span>
        ) : edited ? (
          <EditText
            label={`Summary of the turns up to ${edited.turn}`}
            text={edited.text}
            does="Put it right"
            onDone={(text) => actions.correct(edited.id, text)}
            onCancel={() => setEdited(undefined)}
          />
        ) : (
          <PlainText text={summary.text} />
        )}
        {summary && part && !part.carried && <span className={styles.why}>{wordsFor(part.reason)}</span>}
        {next?.state === "making" && (
          <div className={styles.links} role="status">
            <span className={styles.waiting}>The turns up to {next.turn} are being summed up.</span>
            <button type="button" className="link" onClick={actions.stop}>
              stop
            </button>
          </div>
        )}
        {next?.state === "failed" && (
          <ProblemNote problem={next.problem}>
            The last turns were not summed up; it is tried again after the next reply.{" "}
            <button type="button" className="link" onClick={actions.makeAnew}>
              try again now
            </button>
          </ProblemNote>
        )}
        {actions.failure && <ProblemNote problem={actions.failure} />}
        {!edited && next?.state !== "making" && (
          <div className={styles.actions} data-stays={summary === undefined}>
            {summary && (
              <button type="button" className="link" onClick={() => setEdited(summary)}>
                put it right
              </button>
            )}
            <button type="button" className="link" onClick={actions.makeAnew}>
              {summary ? "make it anew" : "sum up now"}
            </button>
          </div>
        )}
      </Row>
      {summary && isInspected && (
        <Fallible what="the dispatch">
          <DispatchSheet of={summary.id} what="summary" onFold={() => actions.inspect(summary.id)} />
        </Fallible>
      )}
    </>
  );
}

/** Who made a summary, for how much, and whether it is as it would be made now. */
function SummarySide({
  summary,
  isStale,
  isInspected,
  onInspect,
}: Pick<Props, "isStale" | "isInspected"> & { summary: BenchSummary; onInspect: () => void }) {
  const { maker, price: cost, isCorrected, isCut } = summary;
  return (
    <>
      <div>
        {maker.model} on <ProviderName of={maker.provider} />
      </div>
      {cost && <div>{price(cost.amount, cost.currency)}</div>}
      {isCorrected && <div>put right by hand</div>}
      {isCut && <div className={styles.caution}>cut at its output limit</div>}
      {isStale && <div className={styles.caution}>made by another model or prompt than is set now</div>}
      <button
        type="button"
        className={styles.inspect}
        aria-label={`Dispatch of the summary up to turn ${summary.turn}`}
        aria-expanded={isInspected}
        onClick={onInspect}
      >
        <span>dispatch</span>
      </button>
    </>
  );
}
