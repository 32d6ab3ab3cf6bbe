import type { Usage } from "@/core/reply/events";

const whole = new Intl.NumberFormat("en-GB");

/** A whole number with its thousands parted: 16,384. */
export function count(value: number): string {
  return whole.format(Math.round(value));
}

/** A duration: "412 ms" below a second, else "1.9 s". */
export function duration(milliseconds: number): string {
  if (milliseconds < 1000) return `${Math.round(milliseconds)} ms`;
  if (milliseconds < 60_000) return `${(milliseconds / 1000).toFixed(milliseconds < 10_000 ? 2 : 1)} s`;
  return `${Math.floor(milliseconds / 60_000)} min ${Math.round((milliseconds % 60_000) / 1000)} s`;
}

/** What a message costs, with as many places as it takes to tell two of them apart: €0.0021. */
export function price(amount: number, currency: string): string {
  return new Intl.NumberFormat("en-GB", { style: "currency", currency, minimumFractionDigits: 4 }).format(amount);
}

/** What something used came to, as far as that is known. */
export function cost({
  price: amount,
  currency,
  isUnpriced,
}: Pick<Usage, "price" | "currency" | "isUnpriced">): string {
  if (!isUnpriced) return price(amount, currency);
  return amount > 0 ? `${price(amount, currency)} and a price that is not set` : "price not set";
}

/** What a million tokens cost: €2.50. */
export function rate(amount: number, currency: string): string {
  return new Intl.NumberFormat("en-GB", { style: "currency", currency }).format(amount);
}

/** A moment as a list shows it: the time today, else the day and the time. */
export function moment(at: number, now: number): string {
  const date = new Date(at);
  const time = date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (date.toDateString() === new Date(now).toDateString()) return time;
  return `${date.toLocaleDateString("en-GB", { day: "numeric", month: "short" })}, ${time}`;
}

/** "1 turn", "2 turns". */
export function many(amount: number, one: string, more = `${one}s`): string {
  return `${count(amount)} ${amount === 1 ? one : more}`;
}

/** The turns of a line that are counted up to a number: "3 turns", "200 turns or more". */
export function turnsUpTo(turns: number, most: number): string {
  return turns < most ? many(turns, "turn") : `${many(most, "turn")} or more`;
}
