import { judgeTask } from "@/core/checks/rubric";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { Guard } from "@/core/guards/guard";
import type { LastEvent } from "@/core/reply/events";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { HasApps, StoredApp } from "../apps/app-store";
import { holdForCalls, mostOf } from "../apps/budget";
import type { Chosen } from "../apps/candidate";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasDatabase } from "../database/database";
import type { HasPacking } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink, type MadeFor } from "../dispatches/keeping-sink";
import type { Traffic } from "../exchange/traffic";
import type { Rank } from "../making/gate";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import type { HasMeans } from "../making/types";
import type { HasProviders } from "../providers/provider-store";
import type { HasReservations } from "../spend/reservations";
import type { HasSpend } from "../spend/spend-store";

/** What of the process is used here. */
export type JudgeNeeds = HasApps &
  HasConversations &
  HasDatabase &
  HasDispatches &
  HasMeans &
  HasPacking &
  HasProviders &
  HasReservations &
  HasSpend;

/** What a judge is asked, and for whom. */
export interface AskedOfJudge {
  app: StoredApp;
  /** What it is judged for: a trial, a reply. */
  owner: string;
  conversation: string | null;
  spentOn: MadeFor["spentOn"];
  rank: Rank;
  chosen: Chosen;
  question: string;
  traffic?: Traffic;
  /** What is masked for one model is masked for all. */
  guards?: readonly Guard[];
}

/** Tokens that a judge may say. */
const maxOutput = 300;

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/**
 * Has a model judge something.
 * @returns its words, what it cost in millionths, and why it said nothing where it failed
 * @throws {Refusal} `over-limit` where the day has no money left for it
 */
export async function askJudge(
  home: JudgeNeeds,
  { app, owner, conversation, spentOn, rank, chosen, question, traffic, guards }: AskedOfJudge,
  signal: AbortSignal,
): Promise<{ words: string; price: number; failure?: string }> {
  const { connection, model } = chosen;
  const tokens = rawTokens(countsOf(`${judgeTask}${question}`));
  const most = mostOf([model], tokens, maxOutput, 1);
  const [letGo] = holdForCalls(home, app, [most], model.price.currency, Date.now(), true);
  const { sink } = keepingSink(home, { purpose: "judge", owner, conversation, spentOn }, (work) =>
    home.database.transaction(work).immediate()?.(),
  );
  const order = plainOrder({
    rank,
    speaker: { connection, model },
    messages: [
      { role: "system", pieces: piecesOf(judgeTask) },
      { role: "visitor", pieces: piecesOf(question) },
    ],
    settings: { temperature: 0, maxOutput },
    traffic,
    guards,
  });
  const making = make(order, sink, home.means);
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  if (signal.aborted) stop();
  try {
    const { usage, paidBefore, takes } = await making.made;
    const [{ last }] = takes;
    const price = Math.round(((usage?.price ?? 0) + paidBefore) * 1_000_000);
    const failure = last.event === "problem" ? (last.data.detail ?? last.data.kind) : undefined;
    return { words: textOf(takes[0]).trim(), price, failure };
  } finally {
    signal.removeEventListener("abort", stop);
    letGo?.();
  }
}
