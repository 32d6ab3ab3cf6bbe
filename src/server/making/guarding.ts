import { lookBeforeSending } from "@/core/guards/before-sending";
import type { Guard } from "@/core/guards/guard";
import { readied } from "@/core/guards/looking";
import { Masks } from "@/core/guards/masks";
import type { Content } from "@/core/revision/content";
import { fillPrompt } from "@/core/revision/variables";
import type { Context, OrderGuards } from "./types";

/** What an order has of its content's guards; undefined where none is on. */
export function guardsOf(
  content: Content,
  /** What the visitor said last. */
  message: string,
  { variables, now, judge }: { variables: Record<string, string>; now: number; judge?: OrderGuards["judge"] },
): OrderGuards | undefined {
  const guards = (content.guards ?? []).filter(({ isOff }) => !isOff);
  if (guards.length === 0) return undefined;
  const { refusal, caught } = lookBeforeSending(guards, message);
  const prompt = fillPrompt(content, variables, now).text;
  const shown = readied(
    guards.filter(({ on }) => on === "shown"),
    prompt,
  );
  const masks = refusal === undefined ? masksOf(guards, [fillPrompt(content, {}, now).text]) : undefined;
  return {
    refusal,
    caught: [...caught, ...(masks?.caughtIn(message) ?? [])],
    shown: shown.filter(({ guard }) => guard.looksFor.kind !== "judge"),
    judges: shown.filter(({ guard }) => guard.looksFor.kind === "judge"),
    judge,
  };
}

/** A context with what guards mask in it masked. @param own the app's own words */
export function masked(context: Context, guards: readonly Guard[], own: readonly string[]): Context {
  if (context.kind === "refused") return context;
  const masks = masksOf(guards, own);
  return masks ? { ...context, messages: masks.messages(context.messages), masks } : context;
}

/** What guards mask before it is sent; undefined where none does. @param own the app's own words */
export function masksOf(guards: readonly Guard[], own: readonly string[]): Masks | undefined {
  // what is refused in a new message is not sent with a later one, either
  const masking = guards.filter(({ on, does, isOff }) => on === "sent" && does !== "mark" && !isOff);
  return masking.length > 0 ? new Masks(readied(masking, ""), own) : undefined;
}
