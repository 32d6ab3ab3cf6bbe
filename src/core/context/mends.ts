import type { Content } from "../revision/content";
import type { Forecast } from "./forecast";

/** A change of the draft after which a context that is too long for its window fits. */
export type Mend =
  /** To carry as many of the newest turns as have so many tokens, instead of everything. */
  | { kind: "carry-less"; change: Pick<Content, "memory">; tokens: number }
  /** To keep fewer tokens for the reply. */
  | { kind: "shorter-reply"; change: Pick<Content, "settings">; tokens: number };

/** Tokens below which a reply is not held to less. */
const leastReply = 50;

/** The mends of a context that is too long; none where it fits, or where the prompt or the message alone is too long. */
export function mendsOf(
  { excess, remembered, tokens, margin, limits, room, track }: Forecast,
  content: Content,
): Mend[] {
  if (excess === 0) return [];
  const mends: Mend[] = [];
  const { as, apart, kind } = track.memory;
  const left = limits.ceiling - (tokens - remembered) - margin;
  if (kind === "everything" && left > 0)
    mends.push({ kind: "carry-less", tokens: left, change: { memory: { kind: "fitting", tokens: left, as, apart } } });
  const reply = (room.maxOutput ?? 0) - excess;
  if (reply >= leastReply)
    mends.push({
      kind: "shorter-reply",
      tokens: reply,
      change: { settings: { ...content.settings, maxOutput: reply } },
    });
  return mends;
}
