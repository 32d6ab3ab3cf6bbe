import type { Comparison, Lane, LaneTurn } from "@/contract/comparisons";
import type { LaneBase } from "@/core/comparing/lane";
import { textOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import type { Content } from "@/core/revision/content";

/** A candidate before anything was asked of it. */
export interface NewLane {
  /** For as long as it is not asked. */
  key: string;
  base: LaneBase;
  content: Content;
  changedFrom: Content | null;
}

/** The lanes that are asked, in their order. */
export function openLanes({ lanes }: Comparison): Lane[] {
  return lanes.filter(({ isLeft }) => !isLeft);
}

/** What a lane made of a turn. */
export function turnOf({ turns }: Lane, turn: number): LaneTurn | undefined {
  return turns.find((each) => each.turn === turn);
}

/** Whether anything of it is still to come. */
export function isArriving(comparison: Comparison): boolean {
  return openLanes(comparison).some((lane) =>
    comparison.turns.some(({ turn }) => {
      const made = turnOf(lane, turn);
      return made?.reply ? isUnderWay(made.reply.state) : false;
    }),
  );
}

/** The text that a lane gave in a turn, once it has ended; undefined where there is none. */
export function endedText(made: LaneTurn | undefined): string | undefined {
  if (!made?.reply || isUnderWay(made.reply.state)) return undefined;
  const text = textOf(made.reply);
  return text.trim() === "" ? undefined : text;
}

/** The replies that are under way, with the conversations that they are in. */
export function repliesOf(comparison: Comparison): { reply: string; conversation: string }[] {
  return comparison.lanes.flatMap(({ conversation, turns }) =>
    turns.flatMap(({ reply }) =>
      reply && conversation !== null && isUnderWay(reply.state) ? [{ reply: reply.id, conversation }] : [],
    ),
  );
}

/** Two candidates to begin with: the live revision and the draft. Where both are the same, the draft with another model. */
export function firstLanes(
  live: Content,
  draft: Content,
  isSame: boolean,
  others: readonly { provider: string; model: string }[],
): [NewLane, NewLane] {
  const first: NewLane = { key: "1", base: "live", content: live, changedFrom: null };
  if (!isSame) return [first, { key: "2", base: "draft", content: draft, changedFrom: null }];
  const other = others.find(({ provider, model }) => provider !== draft.provider || model !== draft.model);
  const content = other ? { ...draft, ...other, fallbacks: undefined } : draft;
  return [first, { key: "2", base: "live", content, changedFrom: other ? draft : null }];
}
