import type { LineMessage } from "@/contract/conversations";
import type { Reached } from "@/core/context/judged";
import type { Reason } from "@/core/context/reason";
import { isUnderWay } from "@/core/reply/reply";

/** How a message stands in the reach and in the line: what its row shows beside its own words. */
export interface RowFate {
  /** As they are shown: what is learned of a model's counting changes them by less than one, again and again. */
  tokens: number;
  carried: boolean;
  reason: Reason;
  /** Whether it begins or ends a stretch of carried rows. */
  first: boolean;
  last: boolean;
  /** Whether it is the last of the line, and whether it is of the newest turn. */
  isEnd: boolean;
  isNewest: boolean;
  /** Whether the reply to it is under way. */
  isBeingAnswered: boolean;
  /** Whether it has no answer, and nothing beside says how to ask again. */
  isUnanswered: boolean;
}

/** A summary in the line: it stands before the first message after a turn. */
export interface SummaryPlace {
  /** The place of the message that it stands before; -1 for none of them. */
  at: number;
  isCarried: boolean;
}

/** How each message of a line stands. @param rows what becomes of each, as many as there are messages */
export function fatesOf(
  line: readonly LineMessage[],
  rows: readonly Reached[],
  summary: SummaryPlace | undefined,
): RowFate[] {
  const isCarried = (at: number) => rows[at]?.carried ?? true;
  const newest = line.at(-1)?.turn;
  return line.map((message, at): RowFate => {
    const { tokens = 0, carried = true, reason = { kind: "newest" } as const } = rows[at] ?? {};
    const next = line[at + 1];
    return {
      tokens: Math.round(tokens),
      carried,
      reason,
      first: summary?.at === at ? !summary.isCarried : !isCarried(at - 1),
      last: summary?.at === at + 1 ? !summary.isCarried : !rows[at + 1]?.carried,
      isEnd: at === line.length - 1,
      isNewest: message.turn === newest,
      isBeingAnswered: next?.role === "app" && isUnderWay(next.state),
      isUnanswered: reason.kind === "unanswered" && !saysWhatFailed(next),
    };
  });
}

/** Whether a message is a reply whose row says what went wrong, and asks again. */
function saysWhatFailed(message: LineMessage | undefined): boolean {
  const kind = message?.role === "app" ? message.facts.problem?.kind : undefined;
  return kind !== undefined && kind !== "interrupted";
}
