import type { z } from "zod";
import type { reasonSchema } from "../../context/reason";
import { Unreadable } from "../fault";
import type { ExpectationKind, Expects } from "./expectation";

interface WasSent extends Expects {
  kind: "was-sent";
  what: { kind: "turn"; turn: number } | { kind: "pin" } | { kind: "summary" };
}

type Reason = z.infer<typeof reasonSchema>;

/** An earlier turn, a pinned one or a summary in what was sent for the reply. */
export const wasSent: ExpectationKind<WasSent, { reason: Reason["kind"] | null; most?: number }> = {
  forms: ["turn 1 was sent", "turn 2 was not sent", "a pin was sent", "a summary was sent", "no summary was sent"],
  read(phrase) {
    const beside = phrase.takesOne(["a pin was sent", "a summary was sent", "no pin was sent", "no summary was sent"]);
    if (beside)
      return {
        kind: "was-sent",
        what: { kind: beside.includes("pin") ? "pin" : "summary" },
        not: beside.startsWith("no") || undefined,
      };
    if (!phrase.takes("turn")) return undefined;
    const turn = phrase.number();
    const form = phrase.takesOne(["was sent", "was not sent"]);
    if (turn === undefined || !Number.isInteger(turn) || turn < 1 || !form)
      throw new Unreadable("which turn is missing", "Write for example: turn 1 was sent.");
    return { kind: "was-sent", what: { kind: "turn", turn }, not: form === "was not sent" || undefined };
  },
  write({ what, not }) {
    if (what.kind === "turn") return `turn ${what.turn} ${not ? "was not sent" : "was sent"}`;
    return `${not ? "no" : "a"} ${what.kind} was sent`;
  },
  judge({ what }, { turns, hasPin, hasSummary }) {
    if (what.kind !== "turn") return { isMet: what.kind === "pin" ? hasPin : hasSummary, saw: { reason: null } };
    const sent = turns.find(({ turn }) => turn === what.turn);
    const most = sent?.reason && "most" in sent.reason ? sent.reason.most : undefined;
    return { isMet: sent?.isSent ?? false, saw: { reason: sent?.reason.kind ?? null, most } };
  },
  tell({ reason }, { what }) {
    if (what.kind === "turn")
      return reason === null ? `has no turn ${what.turn} before it` : `was sent without turn ${what.turn}`;
    return `was sent without a ${what.kind}`;
  },
};
