import type { LineMessage } from "@/contract/conversations";

/** Which of several a message is, for those who hear it. */
export function whichOf(what: "take" | "line", { id, siblings }: Pick<LineMessage, "id" | "siblings">): string {
  if (siblings.length < 2) return "";
  return `, ${what} ${siblings.findIndex((each) => each.id === id) + 1} of ${siblings.length}`;
}
