/** A number that is always the same for a seed and a place, below a bound. */
function picked(seed: number, place: number, below: number): number {
  let x = Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(place + 7, 0x85ebca6b);
  x = Math.imul(x ^ (x >>> 15), 0x2c1b3c6d);
  x = Math.imul(x ^ (x >>> 12), 0x297a2d39);
  return ((x ^ (x >>> 15)) >>> 0) % below;
}

const digits = (seed: number, place: number, count: number) =>
  Array.from({ length: count }, (_, at) => picked(seed, place * 31 + at, 10)).join("");
const letters = (seed: number, place: number, count: number) =>
  Array.from({ length: count }, (_, at) => String.fromCharCode(65 + picked(seed, place * 37 + at, 26))).join("");
const two = (value: number) => String(value).padStart(2, "0");

/** Kinds of texts that look like personal data here and there, and hold none: each with figures that a seed chooses. */
const kinds: ((seed: number) => string)[] = [
  (n) => `The ${picked(n, 1, 12) + 6}:${two(picked(n, 2, 60))} to Brindle leaves from pier ${picked(n, 3, 4) + 1}.`,
  (n) =>
    `On 20${two(picked(n, 1, 30) + 20)}-${two(picked(n, 2, 12) + 1)}-${two(picked(n, 3, 28) + 1)} two boats were late.`,
  (n) =>
    `Between ${two(picked(n, 1, 28) + 1)}.${two(picked(n, 2, 12) + 1)}.2025 and ${two(picked(n, 3, 28) + 1)}.${two(picked(n, 4, 12) + 1)}.2025 nothing sails.`,
  (n) => `Your booking has the number ${digits(n, 1, 8)}, please keep it.`,
  (n) => `Order ${digits(n, 1, 10)} was put on the 9:40.`,
  (n) => `The parcel's number is ${digits(n, 1, 12)}.`,
  (n) => `Tracking number ${letters(n, 1, 2)}${digits(n, 2, 9)}${letters(n, 3, 2)}, twelve kilos.`,
  (n) =>
    `A day ticket costs €${picked(n, 1, 40)}.${two(picked(n, 2, 100))}, and a season's €${picked(n, 3, 900) + 100}.00.`,
  (n) => `We carried ${digits(n, 1, 3)},${digits(n, 2, 3)},${digits(n, 3, 3)} passengers since the line was opened.`,
  (n) => `The engine has run ${digits(n, 1, 5)} hours, the pump ${digits(n, 2, 4)}.`,
  (n) => `Position ${picked(n, 1, 60)}.${digits(n, 2, 6)}, -${picked(n, 3, 9)}.${digits(n, 4, 6)} at noon.`,
  (n) =>
    `The server at 10.${picked(n, 1, 256)}.${picked(n, 2, 256)}.${picked(n, 3, 256)} did not answer on port ${picked(n, 4, 60000)}.`,
  (n) =>
    `ISBN 978-${picked(n, 1, 10)}-${digits(n, 2, 4)}-${digits(n, 3, 4)}-${picked(n, 4, 10)} is in the waiting room.`,
  (n) => `Serial number ${letters(n, 1, 3)}-${digits(n, 2, 4)}-${digits(n, 3, 4)}-${digits(n, 4, 4)} of the winch.`,
  (n) =>
    `Version ${picked(n, 1, 9)}.${picked(n, 2, 40)}.${picked(n, 3, 20)}-rc.${picked(n, 4, 9)} of the ticket machine.`,
  (n) => `The file has the hash ${Array.from({ length: 40 }, (_, at) => picked(n, at, 16).toString(16)).join("")}.`,
  (n) => `Ask @harbour_${picked(n, 1, 90)} or @brindle for the key, they are on the chat.`,
  (n) =>
    `Rows ${picked(n, 1, 90)}-${picked(n, 2, 90)}-${picked(n, 3, 90)} and seats ${picked(n, 4, 90)}/${picked(n, 5, 90)} are taken.`,
  (n) =>
    `In ${1950 + picked(n, 1, 70)}, ${1950 + picked(n, 2, 70)} and ${1950 + picked(n, 3, 70)} the pier was mended.`,
  (n) =>
    `Winds of ${picked(n, 1, 12)} to ${picked(n, 2, 12)}, waves of ${picked(n, 3, 5)}.${picked(n, 4, 10)} m, ${picked(n, 5, 20)} degrees.`,
  (n) => `The cheque is for ${digits(n, 1, 4)} ${digits(n, 2, 4)} tokens, of ${digits(n, 3, 6)} in all.`,
  (n) => `Job ${digits(n, 1, 13)} ended after ${digits(n, 2, 4)} ms with exit code ${picked(n, 3, 128)}.`,
  (n) => `At ${digits(n, 1, 10)} (epoch) the gate opened, and closed at ${digits(n, 2, 10)}.`,
  (n) =>
    `SKIPPER ON DUTY: TOM, BOAT ${letters(n, 1, 2)}${two(picked(n, 2, 99))}, PIER ${picked(n, 3, 5)}, ALL ON BOARD.`,
  (n) =>
    `Sum of the columns: ${digits(n, 1, 2)} ${digits(n, 2, 2)} ${digits(n, 3, 2)} ${digits(n, 4, 2)} ${digits(n, 5, 2)}.`,
];

/** Five hundred texts without personal data. */
export const harmless: readonly string[] = Array.from({ length: 500 }, (_, at) =>
  (kinds[at % kinds.length] as (seed: number) => string)(at),
);
