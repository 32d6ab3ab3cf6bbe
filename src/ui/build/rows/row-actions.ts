import type { LineMessage } from "@/contract/conversations";
import type { Candidate } from "@/core/reply/events";
import type { WantedTakes } from "./TakeWords";

/** What can be done about a message from its row. */
export interface RowActions {
  stop: (reply: string) => void;
  goOn: (reply: string) => void;
  /** Asks for further takes of the reply to a visitor's message. */
  again: (message: string, wanted?: WantedTakes) => void;
  /** Says something else in the place of a visitor's message; gives whether it was taken. */
  change: (message: LineMessage, text: string) => Promise<boolean>;
  /** Adds a take by hand. */
  write: (message: string, text: string, corrects: string) => Promise<boolean>;
  show: (message: string) => void;
  name: (message: string, name: string | null) => void;
  remove: (message: string) => void;
  /** Draws a line below a reply, or takes it away. */
  /** @param by whose memory alone is cleared; null for that of all */
  clear: (reply: string, isClear: boolean, by: Candidate | null) => void;
  /** Carries a turn wherever it stands, or no more. */
  pin: (message: string, isPin: boolean) => void;
  /** Opens what can be chosen in the place of a message side by side. */
  beside: (message: string) => void;
  /** Opens the dispatches of a reply. */
  inspect: (reply: string) => void;
  /** Doubles the output limit of the draft. */
  raiseLimit: () => void;
}
