import { countsOf } from "../../tokens/counts";
import { offeredOf } from "../../tools/tool";
import { markOf } from "../mark";
import type { PartKind } from "./part";

/** The tools that are offered, as a model is told of them: beside the messages, by a place of their own in the request. */
export const tools: PartKind = {
  kind: "tools",
  stands: "first",
  rank: null,
  reason: { kind: "offered" },
  gather({ content: { tools = [] } }) {
    if (tools.length === 0) return null;
    const told = JSON.stringify(offeredOf(tools));
    return { holding: { counts: countsOf(told), messages: 0 }, mark: markOf(told), count: tools.length };
  },
};
