import { holdsSomething } from "../conversation/pieces";
import type { WireMessage } from "../wire/message";

/** Something wrong with a context before it is sent, and the place of the message that has it. */
export interface Slip {
  /** The index in the messages that would be sent. */
  at: number;
  kind: "empty" | "late-prompt" | "twice-in-a-row" | "app-first";
  role: WireMessage["role"];
}

/** The slips of a context: empty messages, and visitor and app out of turn. */
export function slipsOf(messages: WireMessage[]): Slip[] {
  const slips: Slip[] = [];
  let before: WireMessage["role"] | undefined;
  messages.forEach(({ role, pieces }, at) => {
    if (role !== "system" && !holdsSomething({ pieces })) slips.push({ at, kind: "empty", role });
    if (role === "system" && at > 0) slips.push({ at, kind: "late-prompt", role });
    if (role !== "system" && role === before) slips.push({ at, kind: "twice-in-a-row", role });
    if (role === "app" && (before === undefined || before === "system")) slips.push({ at, kind: "app-first", role });
    before = role;
  });
  return slips;
}

/** A slip in words, for a problem. */
export function wordsOfSlip({ at, kind, role }: Slip): string {
  const place = `Message ${at + 1} of the context`;
  switch (kind) {
    case "empty":
      return `${place} is empty.`;
    case "late-prompt":
      return `${place} is the system prompt, which does not stand first.`;
    case "twice-in-a-row":
      return `${place} is the second of the ${role} in a row.`;
    case "app-first":
      return `${place} is the first, and is not the visitor's.`;
  }
}
