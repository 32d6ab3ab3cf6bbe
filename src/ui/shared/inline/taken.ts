/** A text as the value that it stands for, or why it stands for none: what is wrong, and what would be right. */
export type Read<T> = { kind: "value"; value: T } | { kind: "wrong"; why: string };

/** What becomes of a text that was typed in the place of a value. */
export type Taken<T> = { kind: "same" } | { kind: "changed"; value: T } | { kind: "wrong"; why: string };

/** Takes what was typed: nothing becomes of a text that stands for the value which is there. */
export function taken<T>(text: string, before: T, read: (text: string) => Read<T>): Taken<T> {
  const found = read(text);
  if (found.kind === "wrong") return found;
  return Object.is(found.value, before) ? { kind: "same" } : { kind: "changed", value: found.value };
}

/** Reads a text by a schema, whose words say what is wrong with it. */
export function readBy(schema: {
  safeParse: (
    text: string,
  ) => { success: true; data: unknown } | { success: false; error: { issues: { message: string }[] } };
}): (text: string) => Read<string> {
  return (text) => {
    const parsed = schema.safeParse(text);
    if (parsed.success) return { kind: "value", value: text };
    return { kind: "wrong", why: `It ${parsed.error.issues[0]?.message ?? "can't be kept"}.` };
  };
}

/** The numbers that can be typed, and what an empty text stands for. */
export interface NumberBounds {
  min: number;
  max: number;
  /** Whether only whole numbers are meant. */
  isWhole: boolean;
  /** What an empty text stands for: no number, or the one that was there. */
  empty: "none" | "before";
}

const grouped = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 10 });

/** Reads a number as it is typed: thousands may be parted by commas or spaces. */
export function readNumber(
  text: string,
  before: number | undefined,
  { min, max, isWhole, empty }: NumberBounds,
): Read<number | undefined> {
  const plain = text.replace(/(?<=\d)[,\s\u00a0\u202f](?=\d{3}(?:\D|$))/g, "").trim();
  if (plain === "") return { kind: "value", value: empty === "none" ? undefined : before };
  const value = Number(plain);
  const range = `from ${grouped.format(min)} to ${grouped.format(max)}`;
  if (!/^[+-]?(?:\d+\.?\d*|\.\d+)$/.test(plain) || !Number.isFinite(value))
    return { kind: "wrong", why: `“${text.trim().slice(0, 30)}” is no number. Write one ${range}.` };
  if (isWhole && !Number.isInteger(value)) return { kind: "wrong", why: `Write a whole number ${range}.` };
  if (value < min || value > max) return { kind: "wrong", why: `It may be ${range}.` };
  return { kind: "value", value };
}

/** A number one step further, within its bounds; a text that is no number stays. */
export function stepped(
  text: string,
  step: number,
  by: 1 | -1,
  { min, max }: Pick<NumberBounds, "min" | "max">,
): string {
  const value = Number(text.replace(/,/g, ""));
  if (text.trim() === "" || !Number.isFinite(value)) return text;
  const places = Math.max(placesOf(step), placesOf(value));
  return String(Number(Math.min(Math.max(value + by * step, min), max).toFixed(places)));
}

/** How many places a number has after its point. */
function placesOf(value: number): number {
  return String(value).split(".")[1]?.length ?? 0;
}
