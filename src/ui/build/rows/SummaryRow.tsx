import dynamic from "next/dynamic";
import { useState } from "react";
import type { BenchSummary, SummarisingState } from "@/contract/summaries";
import type { Part } from "@/core/context/reach";
import { Action } from "../../shared/Action";
import { Fallible } from "../../shared/Fallible";
import { count, price } from "../../shared/format";
import { PlainText } from "../../shared/markdown/PlainText";
import { ProblemNote } from "../../shared/ProblemNote";
import { ProviderName } from "../../shared/ProviderName";
import { type Bracket, SheetRow, Who } from "../../shared/sheet/SheetRow";
import styles from "../../shared/sheet/sheet.module.css";
import { useStored } from "../../shared/store";
import { wordsFor } from "../../shared/wording/reasons";
import { useRowScene } from "../scene";
import { EditText } from "./EditText";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

interface Props {
  /** The summary that fits the line, and what becomes of it. */
  summary: BenchSummary | undefined;
  part: Part | null;
  /** The next one, where it is being made or could not be. */
  next: SummarisingState | null;
  /** Whether another model or prompt would make it now. */
  isStale: boolean;
}

/** The summary of older turns, in their place: its words, its price, and how the next one stands. */
export function SummaryRow({ summary, part, next, isStale, ...bracket }: Props & Pick<Bracket, "first" | "last">) {
  const { conversation, acts } = useRowScene();
  const isInspected = useStored(
    conversation,
    ({ unfolded }) => summary !== undefined && unfolded?.message === summary.id && unfolded.what === "dispatch",
  );
  // the one that is being corrected, also where a newer one comes meanwhile
  const [edited, setEdited] = useState<BenchSummary>();
  const carried = summary !== undefined && part?.carried === true;
  return (
    <>
      <SheetRow
        tone="prompt"
        turn={summary ? `to ${summary.turn}` : undefined}
        tokens={summary && part ? count(part.tokens) : undefined}
        bracket={{ carried, ...bracket }}
        showsActions={summary === undefined}
        actions={
          !edited &&
          next?.state !== "making" && (
            <>
              {summary && (
                <Action data-focus="the summary" onClick={() => setEdited(summary)}>
                  correct
                </Action>
              )}
              <Action onClick={() => acts.sumUp()}>{summary ? "make it anew" : "sum up now"}</Action>
            </>
          )
        }
        label={summary ? `Summary of the turns up to ${summary.turn}` : "Summary"}
        side={
          summary && (
            <SummarySide
              {...{ summary, isStale, isInspected }}
              onInspect={() => conversation.unfold(summary.id, "dispatch")}
            />
          )
        }
      >
        <Who>Summary</Who>
        {summary === undefined ? (
          <span className={styles.waiting}>None yet that fits: what is older is carried as far as there is room.</span>
        ) : edited ? (
          <EditText
            name="the summary"
            label={`Summary of the turns up to ${edited.turn}`}
            text={edited.text}
            does="Keep it"
            onDone={(text) => acts.correctSummary(edited.id, text)}
            onClose={() => setEdited(undefined)}
          />
        ) : (
          <PlainText text={summary.text} />
        )}
        {summary && part && !part.carried && <span className={styles.why}>{wordsFor(part.reason)}</span>}
        {next?.state === "making" && (
          <div className={styles.links} role="status">
            <span className={styles.waiting}>The turns up to {next.turn} are being summed up.</span>
            <Action onClick={() => acts.stopSumming()}>stop</Action>
          </div>
        )}
        {next?.state === "failed" && (
          <ProblemNote problem={next.problem}>
            The last turns were not summed up; it is tried again after the next reply.{" "}
            <Action onClick={() => acts.sumUp()}>try again now</Action>
          </ProblemNote>
        )}
      </SheetRow>
      {summary && isInspected && (
        <Fallible what="the dispatch">
          <DispatchSheet of={summary.id} what="summary" onFold={conversation.fold} />
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
}: Pick<Props, "isStale"> & { summary: BenchSummary; isInspected: boolean; onInspect: () => void }) {
  const { maker, price: cost, isCorrected, isCut } = summary;
  return (
    <>
      <div>
        {maker.model} on <ProviderName of={maker.provider} />
      </div>
      {cost && <div>{price(cost.amount, cost.currency)}</div>}
      {isCorrected && <div>corrected by hand</div>}
      {isCut && <div className={styles.caution}>cut at its output limit</div>}
      {isStale && <div className={styles.caution}>made by another model or prompt than is set now</div>}
      <button
        type="button"
        className={styles.inspect}
        aria-label={`Dispatch of the summary up to turn ${summary.turn}`}
        aria-expanded={isInspected}
        data-focus={`dispatch ${summary.id}`}
        onClick={onInspect}
      >
        <span>dispatch</span>
      </button>
    </>
  );
}
