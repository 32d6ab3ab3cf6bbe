import type { Message } from "@/core/conversation/message";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { LastEvent } from "@/core/reply/events";
import type { Revision } from "@/core/revision/revision";
import { askForQuestion, mostOfQuestion, questionFrom } from "@/core/sources/self-contained";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { HasApps, StoredApp } from "../apps/app-store";
import { holdForCalls, mostOf } from "../apps/budget";
import type { Chosen } from "../apps/candidate";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasDatabase } from "../database/database";
import type { HasPacking } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink } from "../dispatches/keeping-sink";
import type { Traffic } from "../exchange/traffic";
import { isRefusal } from "../ground/refusal";
import type { Rank } from "../making/gate";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import type { HasMeans } from "../making/types";
import type { HasProviders } from "../providers/provider-store";
import type { HasReservations } from "../spend/reservations";
import type { HasSpend } from "../spend/spend-store";

/** What of the process is used here. */
export type QuestionNeeds = HasApps &
  HasConversations &
  HasDatabase &
  HasDispatches &
  HasMeans &
  HasPacking &
  HasProviders &
  HasReservations &
  HasSpend;

/** What documents are looked through for, and for whom. */
export interface QuestionOf {
  app: StoredApp;
  revision: Revision;
  origin: string;
  conversation: string | null;
  /** The reply, or the trial, that it is for. */
  owner: string;
  speaker: Chosen;
  rank: Rank;
  /** The messages before it, the newest last. */
  before: readonly Message[];
  message: string;
  /** What stands between it and its provider. */
  traffic?: Traffic;
}

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };
/** How far an estimate may be off, for the money that is held. */
const slack = 1.3;

/** What documents are looked through for, and the making that it came of, if one was made. */
export interface Question {
  question: string;
  making?: string;
}

/**
 * The message that documents are looked through for: as it stands, or made self-contained by the model where the
 * content wants that and something was said before. Where that can't be had, or paid for, its own words have to do.
 */
export async function questionFor(home: QuestionNeeds, of: QuestionOf, signal: AbortSignal): Promise<Question> {
  const { revision, before, message } = of;
  if (revision.content.sources?.query !== "self-contained" || before.length === 0) return { question: message };
  const text = askForQuestion(before, message);
  const held = moneyFor(home, of, Math.ceil(rawTokens(countsOf(text)) * slack));
  if (!held) return { question: message };
  try {
    return await made(home, of, text, signal);
  } finally {
    held();
  }
}

/** Holds the money for the call; undefined where the day has none left for it. */
function moneyFor(
  home: QuestionNeeds,
  { app, speaker: { model } }: QuestionOf,
  tokens: number,
): (() => void) | undefined {
  try {
    const most = mostOf([model], tokens, mostOfQuestion, 1);
    return holdForCalls(home, app, [most], model.price.currency, Date.now(), true)[0];
  } catch (error) {
    if (isRefusal(error)) return undefined;
    throw error;
  }
}

async function made(
  home: QuestionNeeds,
  { app, revision, origin, conversation, owner, speaker, rank, message, traffic }: QuestionOf,
  text: string,
  signal: AbortSignal,
): Promise<Question> {
  const spentOn = { app: app.id, revision: revision.number, content: revision.hash, origin };
  const { sink, making: id } = keepingSink(home, { purpose: "question", owner, conversation, spentOn }, (work) =>
    home.database.transaction(work).immediate()?.(),
  );
  const messages = [{ role: "visitor" as const, pieces: piecesOf(text) }];
  const { guards, prompt } = revision.content;
  const settings = { maxOutput: mostOfQuestion, temperature: 0 };
  const making = make(
    plainOrder({ rank, speaker, messages, settings, traffic, guards, own: [prompt] }),
    sink,
    home.means,
  );
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  if (signal.aborted) stop();
  try {
    const [take] = (await making.made).takes;
    const question = take.last.event === "problem" ? message : questionFrom(textOf(take), message);
    return { question, making: id };
  } finally {
    signal.removeEventListener("abort", stop);
  }
}
