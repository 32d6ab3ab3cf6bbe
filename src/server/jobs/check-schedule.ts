import type { HasLog } from "../ground/log";
import { isRefusal } from "../ground/refusal";
import { beginRun, type CheckRunNeeds } from "./check-run";

const hour = 60 * 60 * 1000;

/** Runs the checks of the apps for which that is due, each on its live revision; what can't be run is logged, and tried again then. */
export function runDueChecks(home: CheckRunNeeds & HasLog, now: number): void {
  for (const { app: id, every, trials } of home.runs.due(now)) {
    home.runs.setSchedule(id, { every, trials, nextAt: now + every * hour });
    const app = home.apps.byId(id);
    const live = app && home.apps.revision(app.id, app.liveRevision);
    if (!app || !live) continue;
    try {
      const columns = [{ name: "live", base: "live" as const, content: live.content }];
      beginRun(
        home,
        app,
        { columns, trials, seed: 0, against: 0, leavesOutUnchanged: false, origin: "schedule" },
        null,
      );
    } catch (error) {
      if (!isRefusal(error)) throw error;
      home.log.warn({ app: app.slug, why: error.problem.detail }, "checks could not be run by themselves");
    }
  }
}
