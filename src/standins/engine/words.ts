const small = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
const larger: Record<string, number> = {
  a: 1,
  an: 1,
  both: 2,
  thirteen: 13,
  fourteen: 14,
  fifteen: 15,
  sixteen: 16,
  seventeen: 17,
  eighteen: 18,
  nineteen: 19,
  twenty: 20,
  thirty: 30,
  forty: 40,
  fifty: 50,
  sixty: 60,
  hundred: 100,
};

/** A number from digits or an English number word; undefined when it is neither. */
export function numberFrom(word: string): number | undefined {
  const lower = word.toLowerCase();
  if (/^\d+(\.\d+)?$/.test(lower)) return Number(lower);
  const at = small.indexOf(lower);
  return at >= 0 ? at : larger[lower];
}

/** A number as prose writes it: up to twelve in words. */
export function spelt(count: number): string {
  return small[count] ?? String(count);
}

/** A count with what is counted. */
export function counted(count: number, one: string, many: string): string {
  return `${spelt(count)} ${count === 1 ? one : many}`;
}

/** Euros with two places. */
export function euros(amount: number): string {
  return `€${amount.toFixed(2)}`;
}

/** "a", "a and b", "a, b and c". */
export function listed(items: readonly string[]): string {
  if (items.length < 2) return items.join("");
  return `${items.slice(0, -1).join(", ")} and ${items.at(-1)}`;
}

/** The sentences of a text, each with its mark at the end; times and prices stay whole. */
export function sentencesOf(text: string): string[] {
  return (text.match(/[^.!?\n]+(?:[.!?](?=\S)[^.!?\n]*)*[.!?]*/g) ?? []).map((each) => each.trim()).filter(Boolean);
}

/** A text that begins with a capital. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
