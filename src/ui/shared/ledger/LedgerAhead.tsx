import { sameTokens } from "@/core/context/cache";
import type { Forecast } from "@/core/context/forecast";
import type { Lead } from "@/core/context/lead";
import { ledgerOf } from "@/core/context/ledger";
import { count } from "../format";
import { LedgerTable, type ShownEntry } from "./LedgerTable";
import { WindowBar } from "./WindowBar";

/** The ledger of the next dispatch, before it is sent. @param excerptOf the beginning of a message that is at hand */
export default function LedgerAhead({
  ahead,
  before,
  excerptOf,
}: {
  ahead: Forecast;
  /** What stands for the beginning of what the same model was sent last. */
  before: Lead | undefined;
  excerptOf: (message: string) => string | undefined;
}) {
  const { tokens, margin, room, track } = ahead;
  const { entries } = ledgerOf(ahead, [], room.window);
  const shown = entries.map(
    (entry): ShownEntry => ({ ...entry, text: "first" in entry ? excerptOf(entry.first) : undefined }),
  );
  const { off, calls } = track.calibration;
  const same = before && ahead.lead ? sameTokens(before, ahead.lead, ahead) : undefined;
  return (
    <>
      <WindowBar ahead={ahead} hasLegend />
      <LedgerTable entries={shown}>
        About {count(tokens)} tokens in all, give or take {count(margin)}.{" "}
        {same !== undefined && `The first ${count(same)} are the same as last time: a provider's cache can hold them. `}
        {calls === 0
          ? "Nothing is known yet of how this model counts; each reply teaches the estimate."
          : off === null
            ? "What is known of how this model counts comes from one call."
            : `Its estimates were off by ${(off * 100).toFixed(1)}% of late.`}
      </LedgerTable>
    </>
  );
}
