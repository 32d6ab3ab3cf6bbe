/** The names that are filled from the clock. */
export const clockVariables = ["today", "weekday", "time"];

/** Whether there is such a time zone (IANA). */
export function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat("en-GB", { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

const clocks = new Map<string, Intl.DateTimeFormat>();

/** The moment at which a day began, in a time zone; in epoch milliseconds. */
export function dayBegan(now: number, timeZone = "UTC"): number {
  const { today } = clockValues(now, timeZone);
  const minute = 60_000;
  const [hours = 0, minutes = 0] = (clockValues(now, timeZone).time ?? "").split(":").map(Number);
  let began = Math.floor(now / minute) * minute - (hours * 60 + minutes) * minute;
  // on a day on which the clock is set, it is an hour off, or in the day before
  const quarter = 15 * minute;
  while (clockValues(began, timeZone).today !== today) began += quarter;
  while (clockValues(began - quarter, timeZone).today === today) began -= quarter;
  return began;
}

/** What the clock says at a moment: the date (ISO 8601), the name of the day, and the time of day to the minute. */
export function clockValues(now: number, timeZone = "UTC"): Record<string, string> {
  let clock = clocks.get(timeZone);
  if (!clock) {
    clock = new Intl.DateTimeFormat("en-GB", {
      timeZone,
      weekday: "long",
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      hour: "2-digit",
      minute: "2-digit",
      hourCycle: "h23",
    });
    clocks.set(timeZone, clock);
  }
  const of = Object.fromEntries(clock.formatToParts(now).map(({ type, value }) => [type, value]));
  return { today: `${of.year}-${of.month}-${of.day}`, weekday: of.weekday ?? "", time: `${of.hour}:${of.minute}` };
}

/**
 * The moment at which the clock of a time zone says something, in epoch milliseconds.
 * @param written a day, `2025-06-01`, which stands for its noon; or a minute of it, `2025-06-01 09:40`
 */
export function momentOf(written: string, timeZone = "UTC"): number {
  const [day = "", time = "12:00"] = written.split(" ");
  const wanted = Date.parse(`${day}T${time}:00Z`);
  let moment = wanted;
  // once for the zone, and once more where the clock is set in between
  for (let turn = 0; turn < 2; turn++) {
    const { today, time: said } = clockValues(moment, timeZone);
    moment += wanted - Date.parse(`${today}T${said}:00Z`);
  }
  return moment;
}
