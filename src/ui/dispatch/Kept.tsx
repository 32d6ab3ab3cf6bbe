import { useState } from "react";
import { dispatches } from "@/contract/dispatches";
import { server } from "../shared/api";
import { count, many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { NumberWord } from "../shared/words";
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
      <button type="button" className="link" onClick={() => thinning.run()}>
        thin out
      </button>{" "}
      those older than{" "}
      <NumberWord label="Days" value={days} min={0} max={10_000} onChange={(value) => setDays(value ?? 30)} /> days:
      their ledger, usage and outcome stay.<span role="status">{said}</span>
      {thinning.problem && <ProblemNote problem={thinning.problem} />}
    </div>
  );
}
