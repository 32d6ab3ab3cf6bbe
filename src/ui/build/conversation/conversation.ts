import { replaceEqualDeep } from "@tanstack/react-query";
import type { BenchLine, LineMessage } from "@/contract/conversations";
import { isUnderWay } from "@/core/reply/reply";

export type AppMessage = Extract<LineMessage, { role: "app" }>;

/** What is known of a conversation beside its messages. */
export type About = Omit<BenchLine, "messages" | "before">;

/** A conversation as this tab has read it. */
export interface Conversation {
  id: string;
  /** Whether the server has it: one that is begun here has its id before anything was sent. */
  isBegun: boolean;
  /** Whether its end was read. */
  isRead: boolean;
  /** The line as far as it was read, oldest first: a message is the same object until it changes. */
  line: readonly LineMessage[];
  /** Where what comes before the line is read from; null at the beginning. */
  before: string | null;
  about: About | undefined;
  /** Replies that were heard to end, which may be before that could be read. */
  ended: ReadonlySet<string>;
}

/** A conversation of which nothing was read. */
export function unread(id: string, isBegun: boolean): Conversation {
  return { id, isBegun, isRead: !isBegun, line: [], before: null, about: undefined, ended: new Set() };
}

/** A conversation with its newest page read anew: what was read above it stays where the two overlap. */
export function withEnd(conversation: Conversation, page: BenchLine): Conversation {
  const at = conversation.line.findIndex(({ id }) => id === page.messages[0]?.id);
  const above = at < 0 ? [] : conversation.line.slice(0, at);
  const before = at < 0 ? page.before : conversation.before;
  return withLine(conversation, [...above, ...page.messages], before, page);
}

/** A conversation whose line was read anew from its end. @param pages newest first, at least one */
export function withPages(conversation: Conversation, pages: readonly BenchLine[]): Conversation {
  const [end] = pages;
  if (!end) return conversation;
  const line = pages.toReversed().flatMap(({ messages }) => messages);
  return withLine(conversation, line, pages.at(-1)?.before ?? null, end);
}

/** A conversation with the page before what was read; the same where that is not the page before it any more. */
export function withEarlier(conversation: Conversation, asked: string, page: BenchLine): Conversation {
  if (conversation.before !== asked) return conversation;
  return { ...conversation, line: [...page.messages, ...conversation.line], before: page.before };
}

/** A conversation in which a reply was heard to end. */
export function withEnded(conversation: Conversation, reply: string): Conversation {
  return { ...conversation, ended: new Set([...conversation.ended, reply]) };
}

/** The reply that is under way. */
export function underWayIn({ line, ended }: Pick<Conversation, "line" | "ended">): AppMessage | undefined {
  return line.findLast(
    (message): message is AppMessage => message.role === "app" && isUnderWay(message.state) && !ended.has(message.id),
  );
}

/** Whether a visitor or another caller began it. */
export function isOfVisitor({ about }: Pick<Conversation, "about">): boolean {
  return about !== undefined && ["page", "http", "terminal"].includes(about.origin);
}

/** What is read again stays the same object where it says the same. */
function withLine(
  conversation: Conversation,
  line: readonly LineMessage[],
  before: string | null,
  { messages: _messages, before: _before, ...about }: BenchLine,
): Conversation {
  const known = new Map(conversation.line.map((message) => [message.id, message]));
  const shared = line.map((message) => replaceEqualDeep(known.get(message.id), message));
  const isSame =
    shared.length === conversation.line.length && shared.every((message, at) => message === conversation.line[at]);
  return {
    ...conversation,
    isBegun: true,
    isRead: true,
    line: isSame ? conversation.line : shared,
    before,
    about: replaceEqualDeep(conversation.about, about),
  };
}
