import type { ProbeReport, ProbeStep, ProviderPart } from "@/core/provider/probe";
import { Action } from "../shared/Action";
import { duration, moment } from "../shared/format";
import { partWords } from "../shared/provider-parts";
import styles from "./ProbeStrip.module.css";

const stepCount = 12;

/** The steps of a probe, each with what was found and what to do about it. */
export function ProbeStrip({
  report,
  isRunning,
  onLook,
}: {
  report: Pick<ProbeReport, "model" | "steps"> & { at?: number };
  isRunning: boolean;
  /** Goes to where something is put right. */
  onLook: (part: ProviderPart) => void;
}) {
  const bad = report.steps.filter(({ outcome }) => outcome === "bad");
  return (
    <section aria-label="Probe" className={styles.probe}>
      <ol>
        {report.steps.map((step) => (
          <li key={step.step} data-outcome={step.outcome}>
            <b>{step.step}</b>
            <span>{foundIn(step)}</span>
          </li>
        ))}
        {isRunning && report.steps.length < stepCount && (
          <li data-outcome="left out">
            <b>step {report.steps.length + 1}</b>
            <span>of {stepCount}, asking</span>
          </li>
        )}
      </ol>
      <p role="status" className={styles.summary}>
        {isRunning
          ? `Probing with ${report.model}: ${report.steps.length} of ${stepCount} steps done.`
          : `Probed with ${report.model}${report.at === undefined ? "" : `, ${moment(report.at, Date.now())}`}: ${bad.length === 0 ? "nothing is wrong." : `${bad.length} of ${stepCount} failed.`}`}
      </p>
      {bad.map(({ step, advice, at }) => (
        <p key={step} className={styles.advice}>
          <b>{step}:</b> {advice} {at && <Action onClick={() => onLook(at)}>{partWords[at]}</Action>}
        </p>
      ))}
    </section>
  );
}

function foundIn({ outcome, found, ms }: ProbeStep): string {
  return outcome === "good" && ms >= 50 && !found.endsWith("ms") ? `${found}, ${duration(ms)}` : found;
}
