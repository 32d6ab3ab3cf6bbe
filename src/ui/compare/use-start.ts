import { useQuery } from "@tanstack/react-query";
import { benchConversations } from "@/contract/conversations";
import { textOf } from "@/core/conversation/pieces";
import { server } from "../shared/api";
import { many } from "../shared/format";

/** A message of a conversation that lanes go on from. */
export interface Start {
  conversation: string;
  after: string;
  turn: number;
}

/** The message of a conversation that lanes go on from, or are asked again. */
export function useStart(start: Start | undefined) {
  const { data, error } = useQuery({
    queryKey: ["start", start?.conversation, start?.after],
    queryFn: () =>
      server.send(benchConversations.turns, {
        id: start?.conversation ?? "",
        through: start?.after,
        from: start?.turn ?? 1,
        count: 1,
      }),
    enabled: start !== undefined,
  });
  const message = data?.messages.find(({ id }) => id === start?.after);
  return {
    turn: message ? message.turn - (message.role === "visitor" ? 1 : 0) : undefined,
    message: message?.role === "visitor" ? textOf(message) : "",
    opening: data?.title ?? data?.opening,
    problem: error?.problem,
  };
}

/** From where candidates are asked, in words. @param turnsBefore turns that the lanes of a comparison go on from */
export function startWords(turnsBefore: number | undefined, { turn, opening }: ReturnType<typeof useStart>): string {
  if (turnsBefore) return `after ${many(turnsBefore, "turn")} of a conversation`;
  if (!turn || turnsBefore !== undefined) return "from the start";
  return `after turn ${turn} of “${(opening ?? "").slice(0, 60)}”`;
}
