import { addUp, type Caught, type Guard, usualSaying } from "./guard";
import { foundIn, type ReadyGuard, readied } from "./looking";

/** What guards say of what a visitor said, before anything of it is sent. */
export interface BeforeSending {
  /** What the app answers instead, where a guard refuses it. */
  refusal?: string;
  caught: Caught[];
}

/** Has the guards that refuse and mark look at the newest message, and those that mask count what they mask in it. */
export function lookBeforeSending(guards: readonly Guard[], message: string): BeforeSending {
  let refusal: string | undefined;
  const caught: Caught[] = [];
  for (const ready of readied(
    guards.filter(({ on, does }) => on === "sent" && does !== "mask"),
    "",
  )) {
    const { guard } = ready;
    const found = lengthIn(guard, message) ?? foundBy(ready, message);
    if (found.length === 0) continue;
    caught.push(
      ...found.map(({ what, times }) => ({ guard: guard.name, on: guard.on, does: guard.does, what, times })),
    );
    if (guard.does === "refuse") refusal ??= guard.says ?? usualSaying;
  }
  return { refusal, caught: addUp(caught) };
}

type Found = Pick<Caught, "what" | "times">;

function lengthIn({ looksFor }: Guard, message: string): Found[] | undefined {
  if (looksFor.kind !== "length") return undefined;
  return [...message].length > looksFor.most ? [{ what: "length", times: 1 }] : [];
}

function foundBy({ begin }: ReadyGuard, message: string): Found[] {
  return begin().flatMap(({ what, matcher }) => {
    const times = foundIn(message, matcher).length;
    return times > 0 ? [{ what, times }] : [];
  });
}
