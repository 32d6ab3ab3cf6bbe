import { LRUCache } from "lru-cache";
import type { Comparison, Lane, LaneAhead, LaneTurn, ListedComparison } from "@/contract/comparisons";
import { laneTrackOf, readingsOf, type TrackedCall } from "@/core/comparing/track";
import { withTyped } from "@/core/context/forecast";
import type { AppMessage } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import type { Content } from "@/core/revision/content";
import { dearestOf } from "@/core/tokens/price";
import type { StoredApp } from "../apps/app-store";
import { chosenFor, fallbacksOf } from "../apps/candidate";
import type { HasComparisons, StoredComparison, StoredLane } from "../comparing/comparison-store";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { isRefusal } from "../ground/refusal";
import type { HasProviders } from "../providers/provider-store";
import { forecastOn, repliesForBench, type ToldLineNeeds } from "./conversations";
import { readOf } from "./dispatches";

/** What of the process is used here. */
export type ToldComparisonNeeds = ToldLineNeeds & HasComparisons & HasDispatches;

/** The comparisons of an app, as they are listed, and what a visitor said last. */
export function listedComparisons(
  { comparisons, conversations, messages }: HasComparisons & HasConversations & HasMessages,
  app: StoredApp,
): { comparisons: ListedComparison[]; lastMessage: string } {
  const last = conversations.lastOf(app.id);
  const tip = last?.tip ? messages.message(last.tip) : undefined;
  const said = tip?.role === "app" && tip.parent !== null ? messages.message(tip.parent) : tip;
  return {
    comparisons: comparisons.ofApp(app.id).map(({ id, name, opening, turns, lanes, updatedAt }) => ({
      id,
      name,
      opening: opening ?? "",
      turns,
      lanes,
      updatedAt,
    })),
    lastMessage: said ? textOf(said) : "",
  };
}

/** A comparison with all that was said in it. */
export function comparisonAnswer(
  home: ToldComparisonNeeds,
  { id, app: appId, name, startsAfter, updatedAt }: StoredComparison,
): Comparison {
  const { comparisons, apps, messages } = home;
  const app = apps.byId(appId);
  if (!app) throw new Error(`Comparison ${id} is of no app.`);
  const before = startsAfter === null ? undefined : messages.message(startsAfter);
  return {
    id,
    app: app.slug,
    name,
    turnsBefore: before?.turn ?? 0,
    turns: comparisons.turns(id).map((turn) => ({ ...turn, marks: comparisons.marks(app.id, turn.message) })),
    lanes: comparisons.lanes(id).map((lane) => laneAnswer(home, app, lane)),
    updatedAt,
    now: Date.now(),
  };
}

function laneAnswer(home: ToldComparisonNeeds, app: StoredApp, lane: StoredLane): Lane {
  const { id, base, revision, contentHash, isLeft } = lane;
  const conversation = lane.conversation === null ? undefined : home.conversations.byId(lane.conversation);
  const was = home.apps.revision(app.id, revision);
  return {
    id,
    base,
    revision,
    hash: contentHash,
    content: home.contents.read(contentHash),
    changedFrom: was && was.hash !== contentHash ? was.content : null,
    conversation: conversation?.id ?? null,
    isLeft,
    turns: turnsOf(home, app, lane, conversation),
  };
}

function turnsOf(
  home: ToldComparisonNeeds,
  app: StoredApp,
  lane: StoredLane,
  conversation: StoredConversation | undefined,
): LaneTurn[] {
  const made = home.comparisons.laneTurns(lane.id);
  const shown = made.map(({ message }) => (message === null ? undefined : home.messages.takesOf(message).at(-1)));
  const replies = conversation
    ? repliesForBench(
        home,
        app,
        conversation,
        shown.filter((each) => each !== undefined),
      )
    : [];
  return made.map(({ turn, problem }, at): LaneTurn => {
    const stored = shown[at];
    const reply = replies.find((each) => each.id === stored?.id) ?? null;
    const calls = stored ? callsOf(home, stored) : [];
    return {
      turn,
      problem,
      reply,
      askedAt: stored?.at ?? null,
      track: stored ? laneTrackOf(calls, stored.at, Date.now(), !isUnderWay(stored.state)) : null,
      readings: stored && calls.length > 0 ? readingsOf(calls, stored.facts.usage?.output) : null,
    };
  });
}

/** Replies whose calls are kept at hand once they have ended: reading them again takes their bytes apart. */
const endedCalls = new LRUCache<string, TrackedCall[]>({ max: 300 });

/** The calls that were made for a reply, as far as a track shows them. */
function callsOf(home: HasDispatches & HasProviders, { id, state }: AppMessage): TrackedCall[] {
  const known = endedCalls.get(id);
  if (known) return known;
  const calls = readCalls(home, id);
  if (!isUnderWay(state)) endedCalls.set(id, calls);
  return calls;
}

function readCalls(home: HasDispatches & HasProviders, reply: string): TrackedCall[] {
  return home.dispatches.ofReply(reply).map((dispatch) => ({
    startedAt: dispatch.startedAt,
    ms: dispatch.endedAt === null ? null : dispatch.endedAt - dispatch.startedAt,
    hasFailed: dispatch.outcome?.event === "problem",
    hasPlaces: home.providers.bySlug(dispatch.provider)?.atOnce != null,
    read: readOf(dispatch).flatMap(({ at, read }) => {
      const said = (kind: "text" | "thought") =>
        read.reduce((sum, each) => sum + (each.event === kind && each.take === 0 ? each.data.text.length : 0), 0);
      const [text, thought] = [said("text"), said("thought")];
      return text + thought > 0 ? [{ at, text, thought }] : [];
    }),
  }));
}

/** What a message would cost in some lanes of an app. `after` is a message that those go on from which were not asked yet. */
export function lanesAhead(
  home: ToldComparisonNeeds,
  app: StoredApp,
  {
    lanes,
    after = null,
    typed,
  }: { lanes: readonly { content: Content; lane?: string }[]; after?: string | null; typed: string },
): { lanes: LaneAhead[] } {
  const ahead = lanes.map(({ content, lane }): LaneAhead => {
    try {
      return laneAhead(
        home,
        content,
        lane === undefined ? endAt(home, app, after) : endOfLane(home, app, lane, after),
        typed,
      );
    } catch (error) {
      if (!isRefusal(error)) throw error;
      return { tokens: 0, margin: 0, maxOutput: null, price: null, problem: error.problem };
    }
  });
  return { lanes: ahead };
}

/** The end of a line, and the conversation that it is in. */
type End = Parameters<typeof forecastOn>[2];

function laneAhead(home: ToldComparisonNeeds, content: Content, end: End, typed: string): LaneAhead {
  const { tokens, margin, problem } = withTyped(forecastOn(home, content, end), typed);
  const { maxOutput } = content.settings;
  const prices = [chosenFor(home, content), ...fallbacksOf(home, content)].map(({ model }) => model.price);
  const most = dearestOf({ input: tokens, output: maxOutput ?? 0 }, prices);
  return {
    tokens: Math.round(tokens),
    margin: Math.round(margin),
    maxOutput: maxOutput ?? null,
    price: most === undefined ? null : { most, currency: prices[0]?.currency ?? "EUR" },
    problem: problem ?? null,
  };
}

function endOfLane(home: ToldComparisonNeeds, app: StoredApp, lane: string, after: string | null): End {
  const conversation = home.comparisons.lane(lane)?.conversation;
  const stored = conversation ? home.conversations.byId(conversation) : undefined;
  return stored?.app === app.id ? { conversation: stored.id, tip: stored.tip } : endAt(home, app, after);
}

function endAt({ messages, conversations }: ToldComparisonNeeds, app: StoredApp, after: string | null): End {
  const message = after === null ? undefined : messages.message(after);
  const tip = message?.role === "visitor" ? message.parent : (message?.id ?? null);
  const conversation = tip === null ? undefined : conversations.conversationOf(tip);
  return conversation?.app === app.id ? { conversation: conversation.id, tip } : { conversation: "", tip: null };
}
