import type { HasDatabase } from "../database/database";
import { type HasPacking, Slices } from "../database/slices";
import type { HasStorage } from "../database/storage-watch";
import type { HasLog } from "../ground/log";
import type { HasDispatches } from "./dispatch-store";

/** What of the process is used here. */
export type ThinningNeeds = HasDatabase & HasStorage & HasDispatches & HasPacking & HasLog;

/** Dispatches that are thinned in one transaction. */
const atOnce = 20;

/** Lets go of the bytes of all dispatches that were begun before a moment, in slices with rests; gives how many. */
export async function thin(
  { database, storage, log, dispatches, packing }: ThinningNeeds,
  before: number,
): Promise<number> {
  // what is not packed yet has bytes that would stay
  await packing.start();
  let after = "";
  let thinned = 0;
  const slices = new Slices(database, storage, log, "older dispatches could not be thinned out", () => {
    const some = dispatches.thinSome(before, after, atOnce);
    thinned += some.thinned;
    after = some.last ?? after;
    return some.last !== undefined;
  });
  await slices.start();
  return thinned;
}
