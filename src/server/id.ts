import { monotonicFactory } from "ulid";

const next = monotonicFactory();

/** A new id: it sorts by time, also within one millisecond, and its prefix says what it names. */
export function newId(
  prefix: "app" | "call" | "con" | "dis" | "job" | "mak" | "msg" | "pro" | "sum" | "tok" | "vis",
): string {
  return `${prefix}_${next().toLowerCase()}`;
}
