/** The longest wait that a provider may ask for, in seconds: a day. */
const longestWait = 86_400;

/** What a bare number of a wait counts; `epoch` is a moment, in seconds since 1970, or in milliseconds where it is that large. */
export const waitUnits = ["s", "ms", "min", "epoch"] as const;
export type WaitUnit = (typeof waitUnits)[number];

const secondsOf = { s: 1, ms: 0.001, min: 60 } as const;
/** Moments in seconds since 1970 are below this number until the year 5138, and those in milliseconds are above it since 1973. */
const firstMilliseconds = 100_000_000_000;

/** `1h2m3.5s`, `250ms` or `6m0s`: numbers with their units, each unit once, the larger ones first. */
const withUnits = /^(?:(\d+(?:\.\d+)?)h)?(?:(\d+(?:\.\d+)?)m(?!s))?(?:(\d+(?:\.\d+)?)s)?(?:(\d+(?:\.\d+)?)ms)?$/i;
/** The durations of ISO 8601 up to days. */
const isoDuration = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?$/i;

/** A wait in seconds, unless it is none or no sane one. */
export function saneWait(seconds: number): number | undefined {
  return seconds >= 0 && seconds <= longestWait ? seconds : undefined;
}

/**
 * The seconds that a provider asks to wait: a number or a text, bare or with its own unit, a duration of ISO 8601, or a
 * moment as one of the three dates of HTTP (RFC 9110, 5.6.7) or as ISO 8601 writes it. A moment that has passed, and less
 * than nothing, is no wait. Undefined where it is none of these, or longer than a day.
 * @param unit of a bare number
 * @param now in milliseconds since 1970
 */
export function waitIn(value: unknown, unit: WaitUnit, now: number): number | undefined {
  if (typeof value !== "string" && typeof value !== "number") return undefined;
  const text = String(value).trim();
  if (text === "") return undefined;
  const number = Number(text);
  if (!Number.isNaN(number)) {
    if (unit !== "epoch") return saneWait(Math.max(number, 0) * secondsOf[unit]);
    return untilMoment(number < firstMilliseconds ? number * 1_000 : number, now);
  }
  const parts = withUnits.exec(text);
  if (parts) return saneWait(sumOf(parts.slice(1), [3_600, 60, 1, 0.001]));
  const duration = isoDuration.exec(text);
  if (duration) return saneWait(sumOf(duration.slice(1), [86_400, 3_600, 60, 1]));
  return untilMoment(momentIn(text), now);
}

function sumOf(numbers: readonly (string | undefined)[], factors: readonly number[]): number {
  return numbers.reduce((sum, each, at) => sum + Number(each ?? 0) * (factors[at] ?? 0), 0);
}

function untilMoment(moment: number, now: number): number | undefined {
  return saneWait(Math.max(Math.ceil((moment - now) / 1_000), 0));
}

/** A moment in milliseconds since 1970; not a number where a text is none. A date of the asctime form names no zone, and is GMT. */
function momentIn(text: string): number {
  const isAsctime = /^\w{3} \w{3} [ \d]\d \d\d:\d\d:\d\d \d{4}$/.test(text);
  const isDated =
    isAsctime || /^\w+, \d\d[ -]\w{3}[ -]\d{2,4} \d\d:\d\d:\d\d GMT$/.test(text) || /^\d{4}-\d\d-\d\dT/.test(text);
  return isDated ? Date.parse(isAsctime ? `${text} GMT` : text) : Number.NaN;
}
