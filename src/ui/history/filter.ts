import { type Filter, filterSchema } from "@/core/search/filter";

/** Since when conversations are wanted, as it is chosen: by a word, or by a day as YYYY-MM-DD. */
export const sinceWords = ["today", "yesterday", "week", "month"] as const;

/** The filter as it stands in the address of the view: a day by its word, so that the address stays true. */
export interface HistoryFilter extends Omit<Filter, "since" | "until"> {
  since?: string;
}

const day = 24 * 60 * 60 * 1000;
const names = [
  "origin",
  "client",
  "model",
  "revision",
  "since",
  "ended",
  "over",
  "rated",
  "tag",
  "deleted",
  "words",
] as const;

/** The filter in an address; what is none there is left out. */
export function filterIn(address: URLSearchParams): HistoryFilter {
  const filter: Record<string, unknown> = {};
  for (const name of names) {
    const value = address.get(name);
    if (value === null || value === "") continue;
    if (name === "since") {
      if (isSince(value)) filter.since = value;
      continue;
    }
    const read = filterSchema.shape[name].safeParse(value);
    if (read.success) filter[name] = read.data;
  }
  return filter as HistoryFilter;
}

/** The address of a filter, without the question mark; empty where everything is wanted. */
export function addressOf(filter: HistoryFilter): string {
  const address = new URLSearchParams();
  for (const name of names) {
    const value = filter[name];
    if (value !== undefined && value !== "") address.set(name, String(value));
  }
  return address.toString();
}

/** The filter as the server takes it. @param now epoch milliseconds; days begin at midnight here */
export function askedFor({ since, ...filter }: HistoryFilter, now: number): Filter {
  return since === undefined ? filter : { ...filter, since: momentOf(since, now) };
}

function isSince(value: string): boolean {
  return (sinceWords as readonly string[]).includes(value) || !Number.isNaN(momentOf(value, 0));
}

function momentOf(since: string, now: number): number {
  const midnight = new Date(now).setHours(0, 0, 0, 0);
  if (since === "today") return midnight;
  if (since === "yesterday") return new Date(midnight - day / 2).setHours(0, 0, 0, 0);
  if (since === "week") return midnight - 6 * day;
  if (since === "month") return midnight - 29 * day;
  const [, year, month, date] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(since) ?? [];
  return new Date(Number(year), Number(month) - 1, Number(date)).getTime();
}

/** Whether anything is left out by a filter. */
export function isOpen(filter: HistoryFilter): boolean {
  return addressOf(filter) === "";
}
