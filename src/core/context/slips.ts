import { hasWords } from "../conversation/pieces";
import type { WireMessage } from "../wire/encode";

/** Something wrong with a context before it is sent, and the place of the message that has it. */
export interface Slip {
  /** The index in the messages that would be sent. */
  at: number;
  reason: string;
}

/** The slips of a context: empty messages, and visitor and app out of turn. */
export function slipsOf(messages: WireMessage[]): Slip[] {
  const slips: Slip[] = [];
  let before: WireMessage["role"] | undefined;
  messages.forEach(({ role, pieces }, at) => {
    if (role !== "system" && !hasWords({ pieces })) slips.push({ at, reason: "the message is empty" });
    if (role === "system" && at > 0) slips.push({ at, reason: "the system prompt does not stand first" });
    if (role !== "system" && role === before) slips.push({ at, reason: `two messages of the ${role} stand in a row` });
    if (role === "app" && (before === undefined || before === "system"))
      slips.push({ at, reason: "the first message is not the visitor's" });
    before = role;
  });
  return slips;
}
