import { textOf } from "@/core/conversation/pieces";
import type { Guard } from "@/core/guards/guard";
import type { LastEvent } from "@/core/reply/events";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import type { WireMessage } from "@/core/wire/message";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasDatabase } from "../database/database";
import type { HasPacking } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink, type MadeFor } from "../dispatches/keeping-sink";
import type { Traffic } from "../exchange/traffic";
import type { Rank } from "../making/gate";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import type { HasMeans, Order, Take } from "../making/types";
import type { HasProviders } from "../providers/provider-store";
import type { HasReservations } from "../spend/reservations";
import type { HasSpend } from "../spend/spend-store";
import type { HasApps, StoredApp } from "./app-store";
import { holdForCalls, mostOf } from "./budget";
import type { Chosen } from "./candidate";

/** What of the process is used here. */
export type OneAnswerNeeds = HasApps &
  HasConversations &
  HasDatabase &
  HasDispatches &
  HasMeans &
  HasPacking &
  HasProviders &
  HasReservations &
  HasSpend;

/** What a model is asked for once, and for whom. */
export interface OneAnswerOf extends Required<Pick<MadeFor, "purpose" | "owner" | "conversation" | "spentOn">> {
  app: StoredApp;
  rank: Rank;
  chosen: Chosen;
  messages: WireMessage[];
  settings: Order["settings"] & { maxOutput: number };
  traffic?: Traffic;
  /** What is masked for one model of an app is masked for all; and the app's own words. */
  guards?: readonly Guard[];
  own?: readonly string[];
}

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };
/** How far an estimate may be off, for the money that is held. */
const slack = 1.3;

/**
 * Has a model say something once, apart from any line: an app pays for it, and nobody reads along.
 * @returns what it said, what that cost in millionths, and the making that it came of
 * @throws {Refusal} `over-limit` where the day has no money left for it
 */
export async function oneAnswer(
  home: OneAnswerNeeds,
  { app, rank, chosen, messages, settings, traffic, guards, own, ...madeFor }: OneAnswerOf,
  signal: AbortSignal,
): Promise<{ take: Take; price: number; making: string }> {
  const { connection, model } = chosen;
  const tokens = Math.ceil(rawTokens(countsOf(messages.map(textOf).join(""))) * slack);
  const most = mostOf([model], tokens, settings.maxOutput, 1);
  const [letGo] = holdForCalls(home, app, [most], model.price.currency, Date.now(), true);
  const { sink, making: id } = keepingSink(home, madeFor, (work) => home.database.transaction(work).immediate()?.());
  const speaker = { connection, model };
  const making = make(plainOrder({ rank, speaker, messages, settings, traffic, guards, own }), sink, home.means);
  const stop = () => void making.stop(stopped);
  signal.addEventListener("abort", stop);
  if (signal.aborted) stop();
  try {
    const { usage, paidBefore, takes } = await making.made;
    return { take: takes[0], price: Math.round(((usage?.price ?? 0) + paidBefore) * 1_000_000), making: id };
  } finally {
    signal.removeEventListener("abort", stop);
    letGo?.();
  }
}
