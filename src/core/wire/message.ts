import type { Carry } from "../conversation/message";
import type { Piece } from "../conversation/pieces";

/** Who speaks in a message that is sent. */
export type WireRole = "system" | "visitor" | "app";

/** One message as the core hands it to a profile: what an app said holds its whole exchange with tools. */
export interface WireMessage {
  role: WireRole;
  pieces: Piece[];
  /** What the API gave along with each round of this reply, to have it back with the next call. */
  carry?: readonly Carry[];
}
