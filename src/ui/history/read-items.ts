/** What is read: a turn, or a stretch of turns that is folded. */
export type Item = { kind: "turn"; turn: number } | { kind: "fold"; from: number; to: number };

/** All turns; or those that say something, with the others between them folded. */
export function itemsOf(turns: number, found: number[] | undefined, unfolded: ReadonlySet<number>): Item[] {
  const items: Item[] = [];
  const each = (from: number, to: number) => {
    for (let turn = from; turn <= to; turn += 1) items.push({ kind: "turn", turn });
  };
  if (!found) {
    each(1, turns);
    return items;
  }
  let next = 1;
  for (const turn of [...found, turns + 1]) {
    if (turn > next && unfolded.has(next)) each(next, turn - 1);
    else if (turn > next) items.push({ kind: "fold", from: next, to: turn - 1 });
    if (turn <= turns) each(turn, turn);
    next = turn + 1;
  }
  return items;
}

/** What a list knows it by. */
export function keyOf(item: Item | undefined): string {
  return item?.kind === "turn" ? `turn ${item.turn}` : `fold ${item?.from}`;
}
