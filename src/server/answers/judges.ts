import type { JudgedByHand, JudgedRubric, Judges } from "@/contract/judges";
import { rubricsIn } from "@/core/checks/expectations/rubric";
import { parseScript } from "@/core/checks/parse";
import { inQuotes } from "@/core/checks/phrase";
import { enoughAgreement, enoughByHand, standingOf } from "@/core/checks/rubric";
import { expectedIn } from "@/core/checks/script";
import type { Candidate } from "@/core/reply/events";
import type { StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasJudges } from "../checks/judge-store";
import { judgeKey } from "../checks/judges";
import type { HasRuns } from "../checks/run-store";
import type { HasScripts } from "../checks/script-store";
import { scriptsOf } from "../checks/scripts";
import { unasked } from "../jobs/judging-job";
import type { HasProviders } from "../providers/provider-store";

/** What of the process is used here. */
export type ToldJudgesNeeds = HasJudges & HasScripts & HasRuns;

/** Replies that are given to be judged by hand, beside those that were. */
const mostFresh = 40;

/** Who judges the replies of an app, by which rubrics, and how far that can be trusted. */
export function judgesAnswer(home: ToldJudgesNeeds, app: StoredApp): Judges {
  const judge = home.judges.judge(app.id) ?? null;
  const checks = checksByRubric(home, app);
  const all = new Set([...checks.keys(), ...home.judges.rubrics(app.id)]);
  return {
    judge,
    rubrics: [...all].map(
      (rubric): JudgedRubric => ({
        rubric,
        checks: checks.get(rubric) ?? [],
        ...standingOf(home.judges.byHand(app.id, rubric, judge ? judgeKey(judge) : "")),
        unasked: unasked(home, app.id, rubric).length,
      }),
    ),
    enoughByHand,
    enoughAgreement,
  };
}

/** The names of the checks of an app in which each rubric stands. */
function checksByRubric(home: HasScripts & HasRuns, app: StoredApp): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const { text } of scriptsOf(home, app).scripts)
    for (const check of parseScript(text).script.checks)
      for (const rubric of rubricsIn(expectedIn(check))) found.set(rubric, [...(found.get(rubric) ?? []), check.name]);
  return found;
}

/** Chooses who judges. @throws {Refusal} where that can't be asked */
export function chooseJudge(home: HasJudges & HasProviders, app: StoredApp, judge: Candidate | null): void {
  if (judge) chosenFor(home, judge);
  home.judges.choose(app.id, judge);
}

/** Replies to be judged by hand by a rubric: those that were, the newest first, then others of trials in which it stood. */
export function repliesToJudge(home: ToldJudgesNeeds, app: StoredApp, rubric: string): { replies: JudgedByHand[] } {
  const judge = home.judges.judge(app.id);
  const known = home.judges.byHand(app.id, rubric, judge ? judgeKey(judge) : "");
  const fresh = new Map<string, JudgedByHand>();
  const isKnown = (message: string, reply: string) =>
    known.some((each) => each.message === message && each.reply === reply);
  for (const { message, text: reply } of home.runs.repliesOf(app.id, inQuotes(rubric).slice(1, -1)))
    if (fresh.size < mostFresh && !isKnown(message, reply))
      fresh.set(`${message}\n${reply}`, { message, reply, byHand: null, judge: null });
  return {
    replies: [
      ...fresh.values(),
      ...known.map(({ message, reply, byHand, verdict, words }) => ({
        ...{ message, reply, byHand },
        judge: words === null ? null : { verdict, words },
      })),
    ],
  };
}
