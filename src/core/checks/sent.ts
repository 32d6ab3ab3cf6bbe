import type { Ledger } from "../context/ledger";
import type { SentTurn } from "./seen";

/**
 * What became of the earlier turns in what was sent, as the ledger has it.
 * @param turns how many there were
 * @param pinned the turns that are pinned
 */
export function sentIn(
  { entries }: Pick<Ledger, "entries">,
  turns: number,
  pinned: readonly number[],
): { turns: SentTurn[]; hasPin: boolean; hasSummary: boolean } {
  const sent = new Map<number, SentTurn>();
  let hasSummary = false;
  for (const entry of entries) {
    if (entry.part === "beside" || entry.part === "passage") continue;
    if (entry.part === "summary") {
      if (!entry.carried) continue;
      hasSummary = true;
      for (let turn = 1; turn <= Math.min(entry.turn, turns); turn++)
        sent.set(turn, { turn, isSent: true, reason: { kind: "summarised" } });
      continue;
    }
    const { reason, carried, turns: of } = entry;
    for (let turn = of[0]; turn <= Math.min(of[1], turns); turn++)
      if (!sent.get(turn)?.isSent) sent.set(turn, { turn, isSent: carried, reason });
  }
  const hasPin = pinned.some((turn) => sent.get(turn)?.isSent);
  return { turns: [...sent.values()].sort((a, b) => a.turn - b.turn), hasPin, hasSummary };
}
