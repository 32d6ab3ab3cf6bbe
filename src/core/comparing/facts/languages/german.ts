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
  "null eins zwei drei vier fünf sechs sieben acht neun zehn elf zwölf dreizehn vierzehn fünfzehn sechzehn siebzehn achtzehn neunzehn".split(
    " ",
  );
const tens = "zwanzig dreißig vierzig fünfzig sechzig siebzig achtzig neunzig".split(" ");

function numbersUpTo999(): Map<string, number> {
  const below100 = new Map(ones.map((word, value) => [word, value]));
  for (const [at, ten] of tens.entries())
    for (let one = 0; one < 10; one++) {
      const begin = one === 0 ? "" : `${one === 1 ? "ein" : ones[one]}und`;
      below100.set(begin + ten, (at + 2) * 10 + one);
    }
  const all = new Map(below100);
  for (let hundred = 1; hundred < 10; hundred++)
    for (const begin of hundred === 1 ? ["", "ein"] : [ones[hundred]]) {
      all.set(`${begin}hundert`, hundred * 100);
      for (const [word, value] of below100) if (value > 0) all.set(`${begin}hundert${word}`, hundred * 100 + value);
    }
  for (const half of ["anderthalb", "eineinhalb"]) all.set(half, 1.5);
  for (let whole = 2; whole < 13; whole++) all.set(`${ones[whole]}einhalb`, whole + 0.5);
  return all.set("ein dutzend", 12).set("zwo", 2);
}

/** A noun without its ending: "Fahrrädern", "Fahrräder" and "Fahrrad" are one. */
function stemOf(noun: string): string {
  const plain = noun.toLowerCase().replace(/ä/g, "a").replace(/ö/g, "o").replace(/ü/g, "u");
  const cut = plain.replace(/(?:ern|er|en|em|es|e|n|s)$/, "");
  return cut.length >= 3 ? cut : plain;
}

/** The noun that a number counts: the first word with a capital of the next few. */
function counted(reading: Reading, place: number) {
  for (let at = place; at < place + 4; at++) {
    if (reading.kind(at) !== "word" || stops.has(reading.at(at))) return undefined;
    const said = reading.tokens[at]?.text ?? "";
    if (/^\p{Lu}\p{Ll}+/u.test(said)) return { noun: stemOf(said), next: at + 1 };
  }
  return undefined;
}

const stops = words(`
  der die das den dem des ein eine einen einem einer eines und oder aber von vom zu zum zur mit ohne auf an am im in um ab bis nach vor
  ist sind war waren wird werden hat haben kann können darf dürfen soll sollen muss müssen nicht kein keine keinen je pro wie als
  wenn dass weil noch schon nur auch sowie
`);

/** "zwanzig vor zehn", "halb zehn", "fünf nach halb zehn", "Viertel nach acht", "9 Uhr 40", "mittags". */
function spokenTime(reading: Reading, place: number, number: NumberReader): Clock | undefined {
  const word = reading.at(place);
  if (word === "mitternacht") return { minutes: 0, next: place + 1, half: "am" };
  const read = (at: number) => number(at) ?? hourDigits(reading, at);
  const hourAt = (at: number, minutes: number): Clock | undefined => {
    const hour = read(at);
    if (!hour || hour.value < 1 || hour.value > 24 || !Number.isInteger(hour.value)) return undefined;
    const next = reading.at(hour.next) === "uhr" ? hour.next + 1 : hour.next;
    const said = (hour.value * 60 + minutes + 1440) % 1440;
    return { minutes: hour.value <= 12 ? bySpokenHour(said) : said, next };
  };
  if (word === "halb") return hourAt(place + 1, -30);
  if (word === "dreiviertel") return hourAt(place + 1, -15);
  const lead = word === "viertel" ? { value: 15, next: place + 1 } : read(place);
  if (!lead) return undefined;
  if (reading.at(lead.next) === "uhr") {
    const minutes = read(lead.next + 1);
    const isMinutes =
      minutes && Number.isInteger(minutes.value) && minutes.value < 60 && reading.at(minutes.next) !== "uhr";
    const time = clock(lead.value, isMinutes ? minutes.value : 0);
    if (time !== undefined) return { minutes: time, next: isMinutes ? minutes.next : lead.next + 1, isMarked: true };
  }
  const behind = reading.at(lead.next) === "minuten" ? lead.next + 1 : lead.next;
  const side = reading.at(behind);
  if ((side !== "vor" && side !== "nach") || lead.value >= 60) return undefined;
  const shift = side === "vor" ? -lead.value : lead.value;
  const isHalf = reading.at(behind + 1) === "halb";
  return hourAt(isHalf ? behind + 2 : behind + 1, isHalf ? shift - 30 : shift);
}

/** German. */
export const german: Language = {
  name: "de",
  common: words(
    "der die das und ist sind nicht ein eine auf mit für von zu den dem im am um es sie wir ab bis kostet fährt ein einen einem einer kein keine hat haben hat wird werden kann können darf nur auch noch bei oder wenn dass ist sind war nach vor über unter pro personen uhr platz wie wo was dieser diese dieses alle zwei drei",
  ),
  numbers: numbersUpTo999(),
  longestNumber: 2,
  scales: named([
    ["tausend", 1_000],
    ["million millionen", 1_000_000],
    ["milliarde milliarden", 1_000_000_000],
  ]),
  decimal: ",",
  andHalf: [],
  months: monthsOf(
    "januar|jänner|jan februar|feb märz april|apr mai juni|jun juli|jul august|aug september|sep|sept oktober|okt november|nov dezember|dez",
  ),
  doubtfulMonths: words("jan feb apr jun jul aug sep sept okt nov dez"),
  days: daysOf(
    "montag|montags|montagen dienstag|dienstags mittwoch|mittwochs donnerstag|donnerstags freitag|freitags samstag|samstags|sonnabend|sonnabends sonntag|sonntags|sonntagen",
  ),
  ordinals: new Map([
    ["ersten", 1],
    ["zweiten", 2],
    ["dritten", 3],
  ]),
  ordinalEndings: words("."),
  dateFillers: [],
  beforeYear: words("in im seit bis ab von vor nach jahr jahre um"),
  currencies: named([...commonCurrencies, ["pfund", "GBP"], ["franken", "CHF"]]),
  cents: named<string | undefined>([
    ["cent cents ct", undefined],
    ["rappen", "CHF"],
  ]),
  andCents: words("und"),
  units: named([
    ...commonUnits,
    ["minute minuten", { unit: "min", factor: 1 }],
    ["stunde stunden std", { unit: "min", factor: 60 }],
    ["sekunde sekunden", { unit: "min", factor: 1 / 60 }],
    ["tag tage tagen", { unit: "day", factor: 1 }],
    ["woche wochen", { unit: "day", factor: 7 }],
    ["monat monate monaten", { unit: "month", factor: 1 }],
    ["jahr jahre jahren", { unit: "year", factor: 1 }],
    ["kilometer kilometern", { unit: "m", factor: 1000 }],
    ["meter metern", { unit: "m", factor: 1 }],
    ["zentimeter zentimetern", { unit: "m", factor: 0.01 }],
    ["seemeile seemeilen", { unit: "mile", factor: 1 }],
    ["kilogramm kilo kilos", { unit: "g", factor: 1000 }],
    ["gramm", { unit: "g", factor: 1 }],
    ["tonne tonnen", { unit: "g", factor: 1_000_000 }],
    ["liter litern", { unit: "l", factor: 1 }],
    ["knoten", { unit: "kn", factor: 1 }],
    ["prozent", { unit: "%", factor: 1 }],
  ]),
  stretches: [
    [["eine", "halbe", "stunde"], 30],
    [["einer", "halben", "stunde"], 30],
    [["eine", "viertelstunde"], 15],
    [["einer", "viertelstunde"], 15],
    [["eine", "dreiviertelstunde"], 45],
    [["eine", "stunde"], 60],
    [["einer", "stunde"], 60],
  ],
  labels: words(
    "gleis steg seite nummer nr kai linie schritt abschnitt kapitel deck reihe sitz platz tisch zone anleger brücke regel",
  ),
  spokenTime,
  halves: [
    [["morgens"], "am"],
    [["vormittags"], "am"],
    [["früh"], "am"],
    [["am", "morgen"], "am"],
    [["am", "vormittag"], "am"],
    [["nachmittags"], "pm"],
    [["abends"], "pm"],
    [["am", "nachmittag"], "pm"],
    [["am", "abend"], "pm"],
  ],
  connectors: phrases("bis, und, oder, -, –, —, /"),
  counted,
  answers: named([
    ["ja", "yes"],
    ["nein", "no"],
    ["beide", "both"],
    ["keines keiner", "neither"],
  ]),
  ofTwo: words("both neither"),
  subjects: words(""),
  parted: words("noch"),
  negation: {
    denies(reading, place) {
      const word = reading.at(place);
      return (
        /^(?:nicht|nie|niemals|ohne|weder|nichts|keinesfalls|kein\p{L}*)$/u.test(word) ||
        (word === "noch" && hasBefore(reading, place, "weder"))
      );
    },
    excepts: phrases("außer, statt, anstatt, anstelle, ausgenommen"),
    limits: words("mehr später früher weniger vor länger nur bis über"),
    parts: words("aber sondern während jedoch doch"),
    supposes: words("wenn falls sofern ob"),
  },
};

/** Whether a word was said shortly before, in the same sentence. */
function hasBefore(reading: Reading, place: number, word: string): boolean {
  for (let at = place - 1; at >= 0 && at > place - 30; at--) {
    if (reading.at(at) === word) return true;
    if (/^[!?;]$/.test(reading.at(at)) || reading.kind(at) === "break") return false;
  }
  return false;
}
