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
    paper.warn(`${error.problem.detail} ${error.problem.advice}`);
    return 1;
  }
}
