import type { Dispatch } from "@/contract/dispatches";
import { count } from "../shared/format";
import { LedgerTable } from "../shared/ledger/LedgerTable";

/** The itemised reach of the dispatch. */
export function Ledger({ dispatch: { ledger, usage } }: { dispatch: Dispatch }) {
  if (!ledger) return null;
  const { entries, tokens, margin, window } = ledger;
  const counted = usage && !usage.estimated ? usage.input : undefined;
  return (
    <LedgerTable entries={entries}>
      About {count(tokens)} tokens{margin === undefined ? "" : `, give or take ${count(margin)},`} in a window of{" "}
      {count(window)}, as estimated before it was sent
      {counted === undefined ? "" : `; the provider counted ${count(counted)}`}.
    </LedgerTable>
  );
}
