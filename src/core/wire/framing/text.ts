import type { Framing } from "./framing";

/** A body that is the reply itself. */
export const text: Framing = {
  saying: "plain text",
  usualType: "text/plain",
  types: /^text\/plain\b/i,
  isTold: false,
  isIn: () => true,
  around: () => ["", "\n"],
};
