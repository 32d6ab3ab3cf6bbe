import { useState } from "react";
import { dispatches } from "@/contract/dispatches";
import { server } from "../shared/api";
import { ConfirmAction } from "../shared/Confirm";
import { count, many } from "../shared/format";
import { NumberValue } from "../shared/inline/NumberValue";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./DispatchSheet.module.css";

/** What all dispatches take, and the way to thin old ones out. */
export function Kept({ of, kept }: { of: string; kept: { count: number; bytes: number } }) {
  const [days, setDays] = useState(30);
  const [said, setSaid] = useState("");
  const thinning = useChange("Thinning out", async () => {
    const { thinned } = await server.send(dispatches.thin, { body: { olderThanDays: days } });
    setSaid(` ${many(thinned, "dispatch", "dispatches")} thinned out.`);
  }, [keys.dispatches(of)]);
  return (
    <div className={styles.kept}>
      {many(kept.count, "dispatch", "dispatches")} keep their bytes, in {count(kept.bytes / 1024)} KB.{" "}
      <ConfirmAction
        question={`Thin out the dispatches older than ${many(days, "day")}?`}
        says="Their requests and the bytes of their answers go for good; their ledger, usage and outcome stay."
        does="Thin them out"
        problem={thinning.problem}
        onDo={async () => (await thinning.done()).ok}
      >
        thin out
      </ConfirmAction>{" "}
      those older than{" "}
      <NumberValue label="Days" value={days} min={0} max={10_000} onChange={(value) => setDays(value ?? 30)} /> days:
      their ledger, usage and outcome stay.<span role="status">{said}</span>
    </div>
  );
}
