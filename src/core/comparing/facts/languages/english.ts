import type { Reading } from "../token";
import {
  bySpokenHour,
  type Clock,
  clock,
  commonCurrencies,
  commonUnits,
  daysOf,
  hourDigits,
  type Language,
  monthsOf,
  type NumberReader,
  named,
  phrases,
  words,
} from "./language";

const ones =
  "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen".split(
    " ",
  );
const tens = "twenty thirty forty fifty sixty seventy eighty ninety".split(" ");

function numbersUpTo999(): Map<string, number> {
  const below100 = new Map(ones.map((word, value) => [word, value]));
  for (const [at, ten] of tens.entries()) {
    below100.set(ten, (at + 2) * 10);
    for (let one = 1; one < 10; one++) below100.set(`${ten} ${ones[one]}`, (at + 2) * 10 + one);
  }
  const all = new Map(below100);
  for (let hundred = 1; hundred < 10; hundred++)
    for (const begin of hundred === 1 ? ["a", "one"] : [ones[hundred]]) {
      all.set(`${begin} hundred`, hundred * 100);
      for (const [word, value] of below100)
        if (value > 0)
          for (const and of [" and ", " "]) all.set(`${begin} hundred${and}${word}`, hundred * 100 + value);
    }
  for (const [word, value] of [...below100].slice(2, 13)) all.set(`${word} dozen`, value * 12);
  return all.set("a dozen", 12).set("one dozen", 12).set("half a dozen", 6).set("a hundred", 100);
}

const stops = words(`
  of on in at to for from with without and or by per a an the is are was were be been being can could may might must shall should
  will would do does did has have had more less fewer each every other others that which who whom whose when where if as but so than
  then there this these those it its they them you we i he she not no only also just before after until till between through per
  under over above below during within about around away ago later earlier long wide deep high old apart together up down out off
  into onto across against along per plus minus times daily weekly yearly altogether total instead too again here today tomorrow
  takes leaves costs runs goes sails departs arrives comes carries needs makes says means fits includes lasts stops returns calls
  gets gives holds allows counts starts begins ends opens closes pays leads adds equals does wants saves saved
`);

const irregular = new Map([
  ["children", "child"],
  ["people", "person"],
  ["persons", "person"],
  ["men", "man"],
  ["women", "woman"],
  ["feet", "foot"],
  ["teeth", "tooth"],
  ["mice", "mouse"],
  ["geese", "goose"],
  ["sheep", "sheep"],
  ["knives", "knife"],
  ["lives", "life"],
  ["shelves", "shelf"],
]);

/** A noun in its singular; undefined where a word does not look like a plural. */
function singularOf(word: string): string | undefined {
  const known = irregular.get(word);
  if (known) return known;
  if (!/[a-z]{2}s$/.test(word) || /(?:ss|us|is)$/.test(word)) return undefined;
  if (word.endsWith("ies") && word.length > 4) return `${word.slice(0, -3)}y`;
  if (/(?:sses|shes|ches|xes|zes|buses)$/.test(word)) return word.slice(0, -2);
  return word.slice(0, -1);
}

const adjectives = words(
  "small large big little extra further single free full new old folding heavy light long short great good hot cold whole",
);

/** The noun that a number counts: the first plural of the next few words; beside one, the next word. */
function counted(reading: Reading, place: number, value: number) {
  // "a four-seat boat"
  if (reading.at(place) === "-" && reading.isGlued(place) && reading.kind(place + 1) === "word")
    return { noun: singularOf(reading.at(place + 1)) ?? reading.at(place + 1), next: place + 2 };
  const first = reading.at(place);
  if (value === 1) {
    const at = adjectives.has(first) ? place + 1 : place;
    const noun = reading.at(at);
    const isNoun = reading.kind(at) === "word" && !stops.has(noun) && /^[a-z]{2,}$/.test(noun);
    return isNoun ? { noun, next: at + 1 } : undefined;
  }
  for (let at = place; at < place + 4; at++) {
    const word = reading.at(at);
    if (reading.kind(at) !== "word" || stops.has(word)) return undefined;
    const noun = singularOf(word);
    if (noun !== undefined) return { noun, next: at + 1 };
  }
  return undefined;
}

/** "twenty to ten", "half past nine", "a quarter to six", "nine o'clock", "nine-forty", "noon". */
function spokenTime(reading: Reading, place: number, number: NumberReader): Clock | undefined {
  const word = reading.at(place);
  if (word === "noon" || word === "midday") return { minutes: 720, next: place + 1, half: "pm" };
  if (word === "midnight") return { minutes: 0, next: place + 1, half: "am" };
  const start = word === "a" && reading.at(place + 1) === "quarter" ? place + 1 : place;
  const lead =
    reading.at(start) === "quarter"
      ? { value: 15, next: start + 1 }
      : word === "half"
        ? { value: 30, next: place + 1 }
        : (number(place) ?? hourDigits(reading, place));
  if (!lead) return undefined;
  const behind = reading.at(lead.next) === "minutes" ? lead.next + 1 : lead.next;
  const side = reading.at(behind);
  if (side === "past" || side === "to") {
    const hour = number(behind + 1) ?? hourDigits(reading, behind + 1);
    const isClock =
      hour && hour.value >= 1 && hour.value <= 12 && lead.value < 60 && !(word === "half" && side === "to");
    // "two to three boats" is a range
    const isSpoken =
      lead.value === 15 || lead.value === 30 || (lead.value % 5 === 0 && lead.value > 0) || behind > lead.next;
    if (isClock && isSpoken && !(side === "to" && isRange(reading, place, hour.next))) {
      const shift = side === "past" ? lead.value : -lead.value;
      const minutes = bySpokenHour(((hour.value % 12) * 60 + shift + 720) % 720);
      return { minutes, next: reading.at(hour.next) === "o'clock" ? hour.next + 1 : hour.next };
    }
  }
  const isOclock = reading.at(lead.next) === "o'clock";
  // "six in the morning"
  const isInHalf =
    reading.kind(place) === "word" && lead.value >= 1 && reading.after(lead.next, halfPhrases) > lead.next;
  if (isOclock || isInHalf) {
    const minutes = clock(lead.value, 0);
    if (minutes !== undefined) return { minutes, next: isOclock ? lead.next + 1 : lead.next, isMarked: true };
  }
  // "the nine-forty": an hour and two digits
  const isHour = reading.kind(place) === "word" && ones.indexOf(word) >= 1 && ones.indexOf(word) <= 12;
  if (!isHour || (reading.at(place - 1) !== "the" && reading.at(place - 1) !== "at")) return undefined;
  const at = reading.at(place + 1) === "-" ? place + 2 : place + 1;
  const minutes = number(at);
  const time =
    minutes && minutes.value >= 10 && minutes.value < 60 ? clock(ones.indexOf(word), minutes.value) : undefined;
  return minutes && time !== undefined ? { minutes: time, next: minutes.next } : undefined;
}

/** Whether "five to ten" is a range of something that is counted, and no time. */
function isRange(reading: Reading, place: number, next: number): boolean {
  const before = reading.at(place - 1);
  if (before === "from" || before === "between" || before === "of") return true;
  const behind = reading.at(next);
  return (
    behind !== "" &&
    (units.has(behind) || commonOf.has(behind) || counted(reading, next, 2) !== undefined || /^[€$£¥%]$/.test(behind))
  );
}

const units = named([
  ...commonUnits,
  ["minute minutes mins", { unit: "min", factor: 1 }],
  ["hour hours hr hrs", { unit: "min", factor: 60 }],
  ["second seconds sec secs", { unit: "min", factor: 1 / 60 }],
  ["day days", { unit: "day", factor: 1 }],
  ["week weeks", { unit: "day", factor: 7 }],
  ["month months", { unit: "month", factor: 1 }],
  ["year years", { unit: "year", factor: 1 }],
  ["kilometre kilometres kilometer kilometers", { unit: "m", factor: 1000 }],
  ["metre metres meter meters", { unit: "m", factor: 1 }],
  ["centimetre centimetres centimeter centimeters", { unit: "m", factor: 0.01 }],
  ["millimetre millimetres millimeter millimeters", { unit: "m", factor: 0.001 }],
  ["mile miles", { unit: "mile", factor: 1 }],
  ["kilogram kilograms kilo kilos", { unit: "g", factor: 1000 }],
  ["gram grams", { unit: "g", factor: 1 }],
  ["tonne tonnes", { unit: "g", factor: 1_000_000 }],
  ["litre litres liter liters", { unit: "l", factor: 1 }],
  ["knot knots kt", { unit: "kn", factor: 1 }],
  ["percent", { unit: "%", factor: 1 }],
]);
const commonOf = words("euro euros pound pounds dollar dollars yen francs percent");

const halves: Language["halves"] = [
  [["am"], "am"],
  [["a", ".", "m", "."], "am"],
  [["a", ".", "m"], "am"],
  [["pm"], "pm"],
  [["p", ".", "m", "."], "pm"],
  [["p", ".", "m"], "pm"],
  [["in", "the", "morning"], "am"],
  [["in", "the", "afternoon"], "pm"],
  [["in", "the", "evening"], "pm"],
  [["at", "night"], "pm"],
  [["tonight"], "pm"],
];
const halfPhrases = halves.map(([said]) => said);

const harmless = words("forget worry hesitate miss need matter problem sure far");

/** English. */
export const english: Language = {
  name: "en",
  common: words(
    "the a of and to is are in on for you your it with not that can be at from by or this there has have do does will an as if he she they we all but only two which when where no yes up out my our his her their each per how much costs leaves",
  ),
  numbers: numbersUpTo999(),
  longestNumber: 5,
  scales: named([
    ["thousand", 1_000],
    ["million", 1_000_000],
    ["billion", 1_000_000_000],
  ]),
  decimal: ".",
  andHalf: phrases("and a half"),
  months: monthsOf(
    "january|jan february|feb march|mar april|apr may june|jun july|jul august|aug september|sept|sep october|oct november|nov december|dec",
  ),
  doubtfulMonths: words("may march mar jan feb apr jun jul aug sep sept oct nov dec august"),
  days: daysOf(
    "monday|mondays tuesday|tuesdays wednesday|wednesdays thursday|thursdays friday|fridays saturday|saturdays sunday|sundays",
  ),
  ordinals: new Map(
    "first second third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth thirteenth fourteenth fifteenth sixteenth seventeenth eighteenth nineteenth twentieth"
      .split(" ")
      .map((word, at) => [word, at + 1]),
  ),
  ordinalEndings: words("st nd rd th"),
  dateFillers: phrases("of"),
  beforeYear: words("in since until till from of by before after during year around to through"),
  currencies: named([...commonCurrencies, ["pound pounds sterling", "GBP"], ["franc francs", "CHF"]]),
  cents: named<string | undefined>([
    ["cent cents ct", undefined],
    ["pence penny p", "GBP"],
  ]),
  andCents: words("and"),
  units,
  stretches: [
    [["an", "hour", "and", "a", "half"], 90],
    [["one", "hour", "and", "a", "half"], 90],
    [["an", "hour", "and", "a", "quarter"], 75],
    [["half", "an", "hour"], 30],
    [["half", "a", "day"], 720],
    [["a", "quarter", "of", "an", "hour"], 15],
    [["quarter", "of", "an", "hour"], 15],
    [["three", "quarters", "of", "an", "hour"], 45],
    [["an", "hour"], 60],
  ],
  labels: words(
    "berth platform gate pier page line room number step section chapter version revision turn rule article route bus deck row seat table point option question zone track stop bay slot cabin",
  ),
  spokenTime,
  halves,
  connectors: phrases("to, or, and, until, till, -, –, —, /, through"),
  counted,
  answers: named([
    ["yes yep yeah", "yes"],
    ["no nope", "no"],
    ["neither", "neither"],
    ["both", "both"],
    ["none", "none"],
  ]),
  ofTwo: words("neither both none"),
  subjects: words("you it they we i there he she that"),
  parted: words("nor and"),
  negation: {
    denies(reading, place) {
      const word = reading.at(place);
      const next = reading.at(place + 1);
      if (harmless.has(next) || (next === "have" && reading.at(place + 2) === "to")) return false;
      if (word === "no") return reading.kind(place + 1) === "word";
      return /^(?:not|never|neither|nor|without|none|cannot|nobody|nothing|no-one)$/.test(word) || word.endsWith("n't");
    },
    excepts: phrases("instead of, rather than, except, except for, other than, apart from, excluding"),
    limits: words("more later earlier less fewer before until over above longer only exceed sooner just"),
    parts: words("but while whereas although though however"),
    supposes: words("if unless whether"),
  },
};
