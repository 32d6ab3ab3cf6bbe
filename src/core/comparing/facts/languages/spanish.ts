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
  "cero uno dos tres cuatro cinco seis siete ocho nueve diez once doce trece catorce quince dieciséis diecisiete dieciocho diecinueve veinte veintiuno veintidós veintitrés veinticuatro veinticinco veintiséis veintisiete veintiocho veintinueve".split(
    " ",
  );
const tens = "treinta cuarenta cincuenta sesenta setenta ochenta noventa".split(" ");
const hundreds =
  "ciento doscientos trescientos cuatrocientos quinientos seiscientos setecientos ochocientos novecientos".split(" ");

function numbersUpTo999(): Map<string, number> {
  const below100 = new Map(ones.map((word, value) => [word, value]));
  below100.set("veintiún", 21).set("veintiuna", 21);
  for (const [at, ten] of tens.entries()) {
    below100.set(ten, (at + 3) * 10);
    for (let one = 1; one < 10; one++) below100.set(`${ten} y ${ones[one]}`, (at + 3) * 10 + one);
    for (const one of ["un", "una"]) below100.set(`${ten} y ${one}`, (at + 3) * 10 + 1);
  }
  const all = new Map(below100);
  all.set("cien", 100);
  for (const [at, hundred] of hundreds.entries())
    for (const begin of [hundred, hundred.replace(/os$/, "as")]) {
      all.set(begin, (at + 1) * 100);
      for (const [word, value] of below100) if (value > 0) all.set(`${begin} ${word}`, (at + 1) * 100 + value);
    }
  return all.set("una docena", 12);
}

const stops = words(`
  de del la el los las un una unos unas y o u pero a al en con sin por para es son era hay ha han no más menos que quien se su sus lo le
  les nos como si cada hasta desde entre sobre
`);

function counted(reading: Reading, place: number) {
  const word = reading.at(place);
  if (reading.kind(place) !== "word" || stops.has(word)) return undefined;
  const isBefore = /^(?:pequeñ|grandes|gran|otr|nuev|buen|viej)/.test(word) && reading.kind(place + 1) === "word";
  const noun = isBefore && !stops.has(reading.at(place + 1)) ? reading.at(place + 1) : word;
  const single = noun.length > 3 ? noun.replace(/(?<=[lnrdzj])es$|(?<=[aeiouáéíóú])s$/, "") : noun;
  return { noun: single, next: place + (noun === word ? 1 : 2) };
}

/** "las diez menos veinte", "a las ocho y cuarto", "las 9 y media", "mediodía". */
function spokenTime(reading: Reading, place: number, number: NumberReader): Clock | undefined {
  const word = reading.at(place);
  if (word === "mediodía") return { minutes: 720, next: place + 1, half: "pm" };
  if (word === "medianoche") return { minutes: 0, next: place + 1, half: "am" };
  const before = reading.at(place - 1);
  const isClock = before === "las" || before === "la" || before === "las(";
  const hour =
    word === "una" && before === "la" ? { value: 1, next: place + 1 } : (number(place) ?? hourDigits(reading, place));
  if (!hour || !Number.isInteger(hour.value) || hour.value > 24) return undefined;
  const behind = reading.at(hour.next);
  if (behind === "h" || behind === "horas") {
    const isTime = isClock || /^(?:a|de|desde|hasta|entre|y)$/.test(before);
    const time = isTime && behind === "h" ? clock(hour.value, 0) : isClock ? clock(hour.value, 0) : undefined;
    return time === undefined ? undefined : { minutes: time, next: hour.next + 1, isMarked: true };
  }
  if (!isClock) return undefined;
  const of = (minutes: number, next: number): Clock | undefined => {
    const time = clock(hour.value, 0);
    if (time === undefined) return undefined;
    const read = (time + minutes + 1440) % 1440;
    return { minutes: hour.value === 1 ? bySpokenHour(read) : read, next, isMarked: true };
  };
  const at = hour.next + 1;
  if (behind === "y" && reading.at(at) === "media") return of(30, at + 1);
  if ((behind === "y" || behind === "menos") && reading.at(at) === "cuarto")
    return of(behind === "y" ? 15 : -15, at + 1);
  if (behind === "y" || behind === "menos") {
    const minutes = number(at) ?? hourDigits(reading, at);
    if (minutes && minutes.value < 60 && minutes.value > 0)
      return of(behind === "y" ? minutes.value : -minutes.value, minutes.next);
  }
  // "los dos de las diez" names an hour, "las diez bicicletas" does not
  const isNoun = reading.kind(hour.next) === "word" && !stops.has(behind);
  return isNoun || !/^(?:a|de|desde|hasta|sobre|para|hacia)$/.test(reading.at(place - 2))
    ? undefined
    : of(0, hour.next);
}

/** Spanish. */
export const spanish: Language = {
  name: "es",
  common: words(
    "el la los las y es son de del un una en con por para que no se hay su al lo más como sale cuesta las unos unas o pero si muy todo todos este esta estos ser está están tiene tienen puede desde hasta sin sobre cada personas dos tres cuando cuánto qué dura abierto a",
  ),
  numbers: numbersUpTo999(),
  longestNumber: 4,
  scales: named([
    ["mil", 1_000],
    ["millón millones", 1_000_000],
  ]),
  decimal: ",",
  andHalf: [],
  months: monthsOf(
    "enero|ene febrero|feb marzo abril|abr mayo junio|jun julio|jul agosto|ago septiembre|setiembre|sept octubre|oct noviembre|nov diciembre|dic",
  ),
  doubtfulMonths: words("ene feb abr jun jul ago sept oct nov dic"),
  days: daysOf("lunes martes miércoles jueves viernes sábado|sábados domingo|domingos"),
  ordinals: new Map([["primero", 1]]),
  ordinalEndings: words("º o"),
  dateFillers: phrases("de, del"),
  beforeYear: words("en desde hasta de año años antes después hacia"),
  currencies: named([
    ...commonCurrencies,
    ["dólar dólares", "USD"],
    ["libra libras", "GBP"],
    ["franco francos", "CHF"],
    ["yenes", "JPY"],
  ]),
  cents: named<string | undefined>([["céntimo céntimos centavo centavos", undefined]]),
  andCents: words("con y"),
  units: named([
    ...commonUnits,
    ["minuto minutos", { unit: "min", factor: 1 }],
    ["hora horas", { unit: "min", factor: 60 }],
    ["segundo segundos", { unit: "min", factor: 1 / 60 }],
    ["día días", { unit: "day", factor: 1 }],
    ["semana semanas", { unit: "day", factor: 7 }],
    ["mes meses", { unit: "month", factor: 1 }],
    ["año años", { unit: "year", factor: 1 }],
    ["kilómetro kilómetros", { unit: "m", factor: 1000 }],
    ["metro metros", { unit: "m", factor: 1 }],
    ["centímetro centímetros", { unit: "m", factor: 0.01 }],
    ["milla millas", { unit: "mile", factor: 1 }],
    ["kilogramo kilogramos kilo kilos", { unit: "g", factor: 1000 }],
    ["gramo gramos", { unit: "g", factor: 1 }],
    ["tonelada toneladas", { unit: "g", factor: 1_000_000 }],
    ["litro litros", { unit: "l", factor: 1 }],
    ["nudo nudos", { unit: "kn", factor: 1 }],
  ]),
  stretches: [
    [["una", "hora", "y", "media"], 90],
    [["media", "hora"], 30],
    [["un", "cuarto", "de", "hora"], 15],
    [["tres", "cuartos", "de", "hora"], 45],
    [["una", "hora"], 60],
  ],
  labels: words("muelle página línea número paso andén sección capítulo cubierta fila asiento mesa zona regla"),
  spokenTime,
  halves: [
    [["de", "la", "mañana"], "am"],
    [["de", "la", "tarde"], "pm"],
    [["de", "la", "noche"], "pm"],
  ],
  connectors: phrases("a, y, o, hasta, -, –, —, /"),
  counted,
  answers: named([
    ["sí", "yes"],
    ["no", "no"],
    ["ninguno ninguna", "neither"],
    ["ambos ambas", "both"],
  ]),
  ofTwo: words("both neither"),
  subjects: words(""),
  parted: words("ni"),
  negation: {
    denies: (reading, place) =>
      /^(?:nunca|jamás|sin|ni|tampoco|ningún|ninguno|ninguna)$/.test(reading.at(place)) ||
      (reading.at(place) === "no" && !(reading.begins(place) && reading.at(place + 1) === ",")),
    excepts: phrases("excepto, salvo, en lugar de, en vez de, menos los, menos el"),
    limits: words("más antes después menos solo sólo"),
    parts: words("pero sino mientras aunque"),
    supposes: words("si"),
  },
};
