import { monotonicFactory } from "ulid";

const drawn = new Uint32Array(256);
let left = 0;

/** A random number from 0 to below 1, of 32 bits; they are drawn many at a time, since an id takes sixteen. */
function random(): number {
  if (left === 0) {
    crypto.getRandomValues(drawn);
    left = drawn.length;
  }
  left -= 1;
  return (drawn[left] as number) / 2 ** 32;
}

const next = monotonicFactory(random);

/** A new id: it sorts by time, also within one millisecond, and its prefix says what it names. */
export function newId(
  prefix:
    | "ans"
    | "app"
    | "call"
    | "cmp"
    | "con"
    | "dis"
    | "doc"
    | "due"
    | "fil"
    | "job"
    | "lan"
    | "mak"
    | "msg"
    | "pro"
    | "que"
    | "run"
    | "set"
    | "src"
    | "sum"
    | "tok"
    | "tri"
    | "vis",
): string {
  return `${prefix}_${next().toLowerCase()}`;
}
