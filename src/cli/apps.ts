import { apps as calls } from "@/contract/apps";
import { CallFailed, Client } from "@/contract/client";
import type { Paper } from "./paper";

/** Lists the apps of a bench, the last used first. @returns the exit code */
export async function apps({ at, json }: { at: string; json?: boolean }, paper: Paper): Promise<number> {
  try {
    const { apps } = await new Client(at.replace(/\/$/, "")).send(calls.list, {});
    const widest = Math.max(0, ...apps.map(({ slug }) => slug.length));
    for (const app of apps)
      paper.say(
        json
          ? `${JSON.stringify(app)}\n`
          : `${app.slug.padEnd(widest)}  ${app.name}: revision ${app.liveRevision}, ${app.model} on ${app.provider}\n`,
      );
    if (apps.length === 0) paper.note("There is no app yet.");
    return 0;
  } catch (error) {
    if (!(error instanceof CallFailed)) throw error;
    const { kind, detail, advice } = error.problem;
    if (kind === "away") {
      paper.warn(`Nothing answers at ${at}. Start Unruly Finch, or say where it is with --at.`);
      return 1;
    }
    // where more than one machine is listened to, the list is the developer's alone
    const why = kind === "forbidden" || kind === "not-found" ? "The list of apps is not open here" : detail;
    paper.warn(why === detail ? `${detail} ${advice}` : `${why}: ${detail} Name the app: finch talk <app>.`);
    return kind === "internal" ? 1 : 2;
  }
}
