import type {
  BenchLine,
  BenchReply,
  CallerLine,
  ConversationPage,
  HistoryPage,
  Sibling,
  Stretch,
} from "@/contract/conversations";
import { mostCounted } from "@/contract/conversations";
import type { Pinned } from "@/core/context/assemble";
import { type Forecast, forecast } from "@/core/context/forecast";
import { type PinnedTurn, rowOf } from "@/core/context/row";
import type { AppMessage, Message, VisitorMessage } from "@/core/conversation/message";
import { turnsOf } from "@/core/conversation/turns";
import { placesFor } from "@/core/provider/places";
import type { NextAttempt } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import type { Told } from "@/core/reply/told";
import { apartFrom } from "@/core/revision/changes";
import type { Content } from "@/core/revision/content";
import type { Filter } from "@/core/search/filter";
import { forLabels } from "@/core/sources/labels";
import { rawTokens } from "@/core/tokens/calibration";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { HasReader } from "../archive/threads";
import type { HasBranches, StoredSibling } from "../conversations/branch-store";
import type { HasConversations, ListPlace, StoredConversation } from "../conversations/conversation-store";
import { hangingOn, type LineNeeds } from "../conversations/line";
import type { HasMarks } from "../conversations/mark-store";
import type { HasMessages } from "../conversations/message-store";
import { tipFor } from "../entrance/access";
import type { HasUploads } from "../entrance/upload-store";
import { refuse } from "../ground/refusal";
import type { HasHub } from "../live/hub";
import type { HasProviders } from "../providers/provider-store";
import type { HasDocuments } from "../sources/document-store";
import type { HasSources } from "../sources/source-store";
import type { HasVisitorDocuments } from "../sources/visitor-document-store";
import { withOwnOf } from "../sources/visitor-documents";
import { countsOfWholes } from "../sources/whole";
import type { HasSummarising } from "../summaries/summarising";
import { messageForCaller } from "./for-caller";

/** What of the process is used here. */
export type ToldLineNeeds = LineNeeds &
  HasSources &
  HasDocuments &
  HasVisitorDocuments &
  HasUploads &
  HasContents &
  HasApps &
  HasConversations &
  HasMarks &
  HasSummarising &
  HasProviders &
  HasHub &
  HasReader;

const conversationsOnPage = 20;
/** Even, so that a page begins with a visitor's message. */
const messagesOnPage = 60;
const turnsOnStrip = 40;

/** A page of a visitor's conversations, the last touched first. */
export function conversationPage(
  boot: HasConversations & HasMessages,
  app: StoredApp,
  { visitor, told }: { visitor: string; told: Told },
  { before, count = conversationsOnPage }: { before?: string; count?: number },
): ConversationPage {
  const after = placeFrom(before) ?? { updatedAt: Number.MAX_SAFE_INTEGER, id: "" };
  const found = boot.conversations.ofVisitor(visitor, app.id, after, count + 1);
  const page = found.slice(0, count);
  const last = page.at(-1);
  return {
    conversations: page.map((conversation) => listed(boot, conversation, told)),
    before: found.length > page.length && last ? `${last.updatedAt}-${last.id}` : null,
  };
}

/** A page of the history of an app, as a filter finds it. */
export function historyPage(
  { reader }: HasReader,
  app: StoredApp,
  { before, ...filter }: Filter & { before?: string },
): Promise<HistoryPage> {
  return reader.call("page", { app: app.id, filter, after: placeFrom(before) });
}

/** The turns of a line in which some words are said. */
export async function placesAnswer(
  boot: ToldLineNeeds,
  conversation: StoredConversation,
  { through, words }: { through?: string; words: string },
): Promise<{ turns: number[] }> {
  const end = tipThrough(boot, conversation, through);
  if (end === null) return { turns: [] };
  return { turns: await boot.reader.call("turnsSaying", { conversation: conversation.id, end, words }) };
}

function placeFrom(before: string | undefined): ListPlace | null {
  if (before === undefined) return null;
  const match = /^(\d{1,15})-(\w+)$/.exec(before);
  if (!match?.[1] || !match[2])
    refuse("bad-request", "`before` is not a place in this list.", {
      advice: "Give what the page before it answered.",
    });
  return { updatedAt: Number(match[1]), id: match[2] };
}

function listed(
  { messages }: HasMessages,
  conversation: StoredConversation,
  told: Told,
): ConversationPage["conversations"][0] {
  const end = conversation.tip === null ? undefined : messages.message(conversation.tip);
  const line = end ? messages.line(end.id, turnsOnStrip * 2 - (end.role === "visitor" ? 1 : 0)) : [];
  return {
    id: conversation.id,
    origin: conversation.origin,
    client: conversation.client,
    opening: conversation.opening,
    title: conversation.visitorTitle,
    at: conversation.createdAt,
    updatedAt: conversation.updatedAt,
    turns: turnsOf(line).map(({ visitor, reply }) => ({
      ...(told.counts
        ? {
            visitor: rawTokens(visitor.counts),
            reply: reply ? (reply.reported ?? rawTokens(reply.counts)) : 0,
          }
        : {}),
      state: reply?.state ?? null,
    })),
    turnCount: conversation.turns,
    ...(told.counts ? { tokens: conversation.tokens } : {}),
  };
}

/** A page of a line: the last one, or the one that comes before a message. */
function linePage(
  boot: HasConversations & HasMessages & HasHub,
  conversation: StoredConversation,
  tip: string | null,
  before: string | undefined,
  count = messagesOnPage,
) {
  const end = before === undefined ? tip : parentOf(boot, conversation, before);
  const messages = end === null ? [] : boot.messages.line(end, count);
  const first = messages[0];
  return {
    conversation: conversation.id,
    messages: messages.map((message) => withText(boot, message)),
    before: first && first.parent !== null ? first.id : null,
  };
}

/** A page of a line as its caller gets it: of failures in general words only, and of the rest as much as is told. */
export function callerLine(
  boot: ToldLineNeeds,
  conversation: StoredConversation,
  { before, turns, through }: { before?: string; turns?: number; through?: string },
  told: Told,
): CallerLine {
  const end =
    through === undefined ? conversation.tip : boot.branches.endOf(messageOf(boot, conversation, through).id).id;
  const page = linePage(boot, conversation, end, before, turns && turns * 2);
  const choosable = choosableBeside(boot, conversation.id, page.messages);
  const { visitor } = conversation;
  const siblings = (message: Message) => choosable(message).map(({ id }) => id);
  const ratings = boot.marks.ratingsOf(page.messages.map(({ id }) => id));
  return {
    ...page,
    messages: page.messages.map((message) =>
      messageForCaller(
        message.role === "visitor"
          ? { ...message, siblings: siblings(message), tokens: rawTokens(message.counts) }
          : {
              ...message,
              siblings: siblings(message),
              tokens: message.reported ?? rawTokens(message.counts),
              rating: ratings.get(message.id)?.visitor ?? null,
            },
        told,
        (hash) => (visitor === null ? undefined : boot.uploads.find(visitor, hash)),
      ),
    ),
  };
}

/**
 * What the next message of a visitor's conversation would carry, with the live revision: of the documents what the
 * caller's labels let through, and the visitor's own.
 */
export function reachAnswer(
  home: ToldLineNeeds,
  app: StoredApp,
  { id, tip, visitor }: StoredConversation,
  { told, labels }: { told: Told; labels: readonly string[] },
) {
  const { apps, messages, providers } = home;
  const revision = apps.revision(app.id, app.liveRevision);
  if (!revision) throw new Error(`App ${app.slug} has no revision ${app.liveRevision}.`);
  const content = withOwnOf(home, app.access, forLabels(revision.content, labels), visitor);
  const by = { provider: content.provider, model: content.model };
  const provider = providers.bySlug(by.provider);
  if (!provider || !providers.model(provider.id, by.model))
    refuse("not-found", `${app.name} speaks through a model that is not there any more.`);
  const reach = forecastOn(home, content, { conversation: id, tip });
  const end = tip === null ? 0 : (messages.message(tip)?.turn ?? 0);
  const carried = reach.turns.turns + [...reach.pins.values()].filter((pin) => pin.carried).length;
  return {
    ...(told.model ? by : {}),
    revision: revision.number,
    turns: carried,
    leftOut: end - carried,
    ...(told.counts ? { tokens: reach.tokens, window: reach.room.window } : {}),
  };
}

/**
 * What the next message of a line would carry on a content, itself left out.
 * @throws {Refusal} where its model is not there any more
 */
export function forecastOn(
  home: LineNeeds & HasProviders & HasSources & HasDocuments,
  content: Content,
  { conversation, tip }: { conversation: string; tip: string | null },
): Forecast {
  const { connection, model } = chosenFor(home, content);
  const { window, calibration } = model;
  const line = tip === null ? [] : home.messages.line(tip, messagesOnPage);
  const { clears, pinned = [], summaries } = tip === null ? {} : hangingOn(home, conversation, tip, content.memory);
  const by = { provider: connection.slug, model: model.name };
  const atHand = { rows: line.map(rowOf), clears, pinned: pinned.map(pinnedRows), summaries };
  const places = placesFor(connection.profile, model);
  const room = { window, places, calibration, by, maxOutput: content.settings.maxOutput };
  return forecast(content, atHand, room, Date.now(), { wholes: countsOfWholes(home, content) });
}

/**
 * A page of a conversation's line for the bench, with what can be chosen in the place of each message.
 * @param through a message whose line is read, instead of the one that is shown
 */
export function benchLine(
  boot: ToldLineNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  { before, through }: { before?: string; through?: string },
): BenchLine {
  const tip = tipThrough(boot, conversation, through);
  const page = linePage(boot, conversation, tip, before);
  const isLast = tip !== null && before === undefined;
  return {
    ...page,
    ...besides(boot, app, conversation, tip, page.messages),
    summaries: isLast ? boot.summaries.ofLine(conversation.id, tip) : [],
    summarising: boot.summarising.standing(conversation.id),
  };
}

/** Some turns of a line for the bench. */
export function benchTurns(
  boot: ToldLineNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  { through, from, count }: { through?: string; from: number; count: number },
): Stretch {
  const tip = tipThrough(boot, conversation, through);
  const messages = tip === null ? [] : boot.messages.stretch(tip, from, from + count - 1);
  const turns = tip === null ? 0 : (boot.messages.message(tip)?.turn ?? 0);
  const read = messages.map((message) => withText(boot, message));
  return { conversation: conversation.id, turns, ...besides(boot, app, conversation, tip, read) };
}

/** The end of the line that is shown at the bench, or of the one through a message. */
function tipThrough(
  boot: HasConversations & HasMessages & HasBranches,
  conversation: StoredConversation,
  through: string | undefined,
): string | null {
  if (through === undefined) return tipFor({ kind: "bench" }, conversation);
  return boot.branches.endOf(messageOf(boot, conversation, through).id).id;
}

/** What the bench is told of messages of a line beside what they say. */
function besides(
  boot: ToldLineNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  tip: string | null,
  messages: ComingMessage[],
) {
  const { branches } = boot;
  const cleared = branches.clearsIn(conversation.id);
  const pins = new Set(boot.pins.ofConversation(conversation.id).map(({ message }) => message));
  const { clears, pinned } =
    tip === null ? { clears: [], pinned: [] } : hangingOn(boot, conversation.id, tip, { kind: "nothing" });
  const choosable = choosableBeside(boot, conversation.id, messages);
  const ratings = boot.marks.ratingsOf(messages.map(({ id }) => id));
  return {
    messages: messages.map((message) => ({
      ...withApart(boot, app, message),
      siblings: choosable(message).map((each) => siblingAnswer(boot, each)),
      clearedFor: cleared.flatMap((clear) => (clear.message === message.id ? [clear.by] : [])),
      isPinned: pins.has(message.id),
      ratings: ratings.get(message.id) ?? {},
    })),
    title: conversation.title,
    opening: conversation.opening,
    note: conversation.note,
    price:
      conversation.currency === "" ? null : { amount: conversation.price / 1_000_000, currency: conversation.currency },
    saidAgain: conversation.saidAgain && (boot.conversations.byId(conversation.saidAgain)?.id ?? null),
    tags: boot.marks.tagsOf(conversation.id),
    app: app.slug,
    origin: conversation.origin,
    client: conversation.client,
    clears,
    pinned: pinned.map(pinnedRows),
    isApart: conversation.visitor !== null && tip !== conversation.tip,
  };
}

/** A message with what its reply is apart from its revision in. */
function withApart({ apps, contents }: HasContents & HasApps, app: StoredApp, message: ComingMessage) {
  if (message.role === "visitor") return message;
  const { content: hash = "", revision: number } = message.facts;
  const revision = apps.revision(app.id, number);
  const content = revision && revision.hash !== hash ? contents.find(hash) : undefined;
  const apart = revision && content && apartFrom(revision.content, content);
  return apart ? { ...message, facts: { ...message.facts, apart } } : message;
}

/** Gives what can be chosen in the place of one of some messages, itself included; nothing where there is no other. */
function choosableBeside({ branches }: HasBranches, conversation: string, messages: readonly Message[]) {
  const parents = messages.flatMap(({ parent }) => parent ?? []);
  const all = messages[0]?.parent === null ? branches.roots(conversation) : [];
  all.push(...branches.siblingsAfter(parents));
  return ({ parent, role }: Message): StoredSibling[] => {
    const here = all.filter((each) => each.parent === parent && each.role === role);
    return here.length < 2 ? [] : here;
  };
}

/** A message that can be chosen, as the bench is told of it. */
function siblingAnswer({ branches }: HasBranches, { id, name, role }: StoredSibling): Sibling {
  const steps = branches.countBelow(id, mostCounted * 2);
  // a line takes turns: a visitor's message, then a reply
  const turns = role === "visitor" ? Math.floor(steps / 2) + 1 : Math.ceil(steps / 2);
  return { id, name, turns };
}

/** Replies of a conversation as the bench gets them, in the order in which they are asked for. */
export function repliesForBench(
  boot: ToldLineNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  replies: readonly AppMessage[],
): BenchReply[] {
  const read = replies.map((message) => withText(boot, message));
  return besides(boot, app, conversation, conversation.tip, read).messages.filter((message) => message.role === "app");
}

/** A line of a conversation without its texts, as the text of an answer. */
export async function outlineText({ reader }: HasReader, conversation: StoredConversation): Promise<string> {
  return reader.call("outline", { end: tipFor({ kind: "bench" }, conversation) });
}

function pinnedRows({ visitor, reply }: Pinned): PinnedTurn {
  return { visitor: rowOf(visitor), reply: rowOf(reply) };
}

function parentOf(home: HasConversations & HasMessages, conversation: StoredConversation, id: string): string | null {
  return messageOf(home, conversation, id).parent;
}

function messageOf(
  { conversations, messages }: HasConversations & HasMessages,
  conversation: StoredConversation,
  id: string,
): Message {
  const message = messages.message(id);
  if (!message || conversations.conversationOf(id)?.id !== conversation.id)
    refuse("bad-request", `There is no message ${id} in this conversation.`);
  return message;
}

type ComingMessage = VisitorMessage | (AppMessage & { cursor?: number; next?: NextAttempt });

/** A message with what has come of it so far, and the id of the last event in that, while it is under way. */
function withText({ hub }: HasHub, message: Message): ComingMessage {
  if (message.role === "visitor" || !isUnderWay(message.state)) return message;
  const standing = hub.standing(message.id);
  if (!standing) return message;
  const { pieces, thought, state, cursor, next } = standing;
  const facts = thought === "" ? message.facts : { ...message.facts, thought };
  return {
    ...message,
    state,
    cursor,
    ...(next && pieces.length === 0 ? { next } : {}),
    facts,
    pieces,
  };
}
