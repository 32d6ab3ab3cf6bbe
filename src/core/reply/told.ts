import type { z } from "zod";
import type { toolCallSchema } from "../conversation/pieces";
import { eventSchema, type NumberedEvent, nextAttemptSchema, replyHeadSchema, usageSchema } from "./events";

/**
 * What callers may be told of a reply beside its words: what a model thought, its tokens, its price, who answered, and
 * what tools were asked and said.
 */
export const tellable = ["thoughts", "counts", "price", "model", "tools"] as const;
type ToolCall = z.infer<typeof toolCallSchema>;
export type Tellable = (typeof tellable)[number];

/** What a caller is told. */
export type Told = Record<Tellable, boolean>;

const speaker = { provider: true, model: true } as const;

/** A reply's beginning, a further attempt and its cost as callers get them; what they are not told is left out. */
export const toldHeadSchema = replyHeadSchema.partial(speaker);
export const toldAttemptSchema = nextAttemptSchema.partial(speaker).meta({ id: "NextAttempt" });
export const toldUsageSchema = usageSchema.partial().meta({ id: "Usage" });
export type ToldHead = z.infer<typeof toldHeadSchema>;
export type ToldAttempt = z.infer<typeof toldAttemptSchema>;
export type ToldUsage = z.infer<typeof toldUsageSchema>;

/** An event of a reply as callers get it. */
export const toldEventSchema = eventSchema(toldHeadSchema, toldAttemptSchema, toldUsageSchema).meta({
  id: "ReplyEvent",
});
export type ToldEvent = z.infer<typeof toldEventSchema>;

/** Who answered, where that is told. */
export function toldSpeaker<S extends { provider?: string; model?: string }>(
  of: S,
  told: Told,
): Omit<S, "provider" | "model"> & { provider?: string; model?: string } {
  if (told.model) return of;
  const { provider: _provider, model: _model, ...rest } = of;
  return rest;
}

/** What a reply cost, as far as that is told; undefined where nothing of it is. */
export function toldUsage(usage: z.infer<typeof usageSchema>, told: Told): ToldUsage | undefined {
  const { price, currency, isUnpriced, estimated, ...counts } = usage;
  if (!told.counts && !told.price) return undefined;
  return {
    ...(told.counts ? { ...counts, estimated } : {}),
    ...(told.price ? { price, currency, estimated, ...(isUnpriced ? { isUnpriced } : {}) } : {}),
  };
}

/**
 * What a caller is told of an event whose data is read already; undefined where it is told nothing of it. Problems are
 * not looked at here.
 */
export function toldEvent({ event, data }: Pick<NumberedEvent, "event" | "data">, told: Told): unknown {
  switch (event) {
    case "thought":
      return told.thoughts ? data : undefined;
    case "tool":
      return toldCall(data as ToolCall, told);
    case "usage":
      return toldUsage(data as z.infer<typeof usageSchema>, told);
    case "reply":
    case "attempt":
      return toldSpeaker(data as z.infer<typeof replyHeadSchema>, told);
    default:
      return data;
  }
}

/**
 * A call as a caller is told of it: whoever answers it sees all of it, and whoever is asked whether it may be made has to
 * see it, if not what came of it.
 */
export function toldCall<C extends ToolCall>(call: C, told: Told): C | undefined {
  if (told.tools || call.by === "caller") return call;
  const { result: _result, by: _by, ...asked } = call;
  return call.asks ? (asked as C) : undefined;
}

export const toldAll: Told = { thoughts: true, counts: true, price: true, model: true, tools: true };
