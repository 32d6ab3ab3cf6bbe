import { Unreadable } from "../fault";
import type { ExpectationKind, Expects } from "./expectation";

interface Within extends Expects {
  kind: "within";
  what: "first text" | "whole";
  seconds: number;
}

/** How soon the first text came, or the end. */
export const within: ExpectationKind<Within, { ms: number | null }> = {
  forms: ["first text within 2 s", "whole within 10 s", "first text after 1 s"],
  read(phrase) {
    const what = phrase.takesOne(["first text", "whole"]);
    if (!what) return undefined;
    const form = phrase.takesOne(["within", "after"]);
    const count = form && phrase.number();
    const unit = phrase.takesOne(["s", "ms"]);
    if (count === undefined || !unit)
      throw new Unreadable("how soon is missing", `Write for example: ${what} within 2 s.`);
    const seconds = unit === "ms" ? count / 1000 : count;
    return { kind: "within", what, seconds, not: form === "after" || undefined };
  },
  write: ({ what, seconds, not }) => `${what} ${not ? "after" : "within"} ${seconds} s`,
  judge({ what, seconds }, { firstTextMs, ms }) {
    const took = what === "whole" ? ms : (firstTextMs ?? null);
    return { isMet: took === null ? undefined : took <= seconds * 1000, saw: { ms: took } };
  },
  tell: ({ ms }, { what }) =>
    ms === null
      ? `has no ${what}`
      : `took ${(ms / 1000).toFixed(2)} s to ${what === "whole" ? "its end" : "its first text"}`,
};

interface Costs extends Expects {
  kind: "costs";
  most: number;
  of: "price" | "input";
}

/** What the reply cost, in the currency of the bench, and the tokens that were sent for it. */
export const costs: ExpectationKind<Costs, { cost: number | null; currency?: string }> = {
  forms: ["costs at most 0.01", "costs more than 0.001", "sends at most 800 tokens", "sends more than 50 tokens"],
  read(phrase) {
    const form = phrase.takesOne(["costs at most", "costs more than", "sends at most", "sends more than"]);
    if (!form) return undefined;
    phrase.takesOne(["€", "$", "£"]);
    const most = phrase.number();
    if (most === undefined)
      throw new Unreadable(
        "how much is missing",
        `Write for example: ${form} ${form.startsWith("costs") ? "0.01" : "800 tokens"}.`,
      );
    const of = form.startsWith("costs") ? "price" : "input";
    if (of === "input" && !phrase.takes("tokens"))
      throw new Unreadable("what is counted is missing", "Write tokens behind the number.");
    return { kind: "costs", most, of, not: form.endsWith("more than") || undefined };
  },
  write({ most, of, not }) {
    const limit = not ? "more than" : "at most";
    return of === "price" ? `costs ${limit} ${decimal(most)}` : `sends ${limit} ${most} tokens`;
  },
  judge({ most, of }, { price, input, currency }) {
    const cost = (of === "price" ? price : input) ?? null;
    return {
      isMet: cost === null ? undefined : cost <= most,
      saw: { cost, currency: of === "price" ? currency : undefined },
    };
  },
  tell({ cost, currency }, { of }) {
    if (cost === null) return of === "price" ? "has no price" : "was not counted";
    return of === "price" ? `cost ${decimal(cost)} ${currency ?? ""}`.trim() : `was sent ${cost} tokens`;
  },
};

/** A number without a power of ten. */
function decimal(value: number): string {
  return value.toFixed(6).replace(/\.?0+$/, "");
}
