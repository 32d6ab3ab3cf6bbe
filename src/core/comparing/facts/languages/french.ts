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
  "zéro un deux trois quatre cinq six sept huit neuf dix onze douze treize quatorze quinze seize dix-sept dix-huit dix-neuf".split(
    " ",
  );
const tens = "vingt trente quarante cinquante soixante".split(" ");

/** Numbers as they are said, hyphens read as blanks. */
function numbersUpTo999(): Map<string, number> {
  const below100 = new Map<string, number>();
  const add = (word: string, value: number) => below100.set(word.replaceAll("-", " "), value);
  for (const [value, word] of ones.entries()) add(word, value);
  for (const [at, ten] of tens.entries()) {
    const base = (at + 2) * 10;
    add(ten, base);
    const most = ten === "soixante" ? 19 : 9;
    for (let one = 1; one <= most; one++)
      for (const and of one === 1 || one === 11 ? [" et ", " "] : [" "]) add(ten + and + ones[one], base + one);
  }
  add("quatre-vingts", 80);
  add("quatre-vingt", 80);
  for (let one = 1; one < 20; one++) add(`quatre-vingt-${ones[one]}`, 80 + one);
  for (const [word, value] of [
    ["septante", 70],
    ["huitante", 80],
    ["nonante", 90],
  ] as const)
    add(word, value);
  const all = new Map(below100);
  for (let hundred = 1; hundred < 10; hundred++) {
    const begin = hundred === 1 ? "" : `${ones[hundred]} `;
    for (const plural of ["cent", "cents"]) all.set(`${begin}${plural}`, hundred * 100);
    for (const [word, value] of below100) if (value > 0) all.set(`${begin}cent ${word}`, hundred * 100 + value);
  }
  all.delete("cents");
  // an article far more often than a number
  all.delete("un");
  return all.set("une douzaine", 12);
}

const stops = words(`
  de du des d la le les l un une et ou mais à au aux en dans sur sous par pour avec sans est sont était a ont ne pas plus moins que qui
  se s il elle ils elles on nous vous je tu ce cette ces y si au-dessus chaque jusqu dont où comme
`);

function counted(reading: Reading, place: number) {
  // "deux d'entre eux"
  const word = reading.at(place);
  if (reading.kind(place) !== "word" || stops.has(word) || /^(?:d|l|qu)'/.test(word)) return undefined;
  const isBefore =
    /^(?:petit|grand|autre|nouveau|nouvel|beau|bon|vieux)/.test(word) && reading.kind(place + 1) === "word";
  const noun = isBefore && !stops.has(reading.at(place + 1)) ? reading.at(place + 1) : word;
  return { noun: noun.length > 3 ? noun.replace(/[sx]$/, "") : noun, next: place + (noun === word ? 1 : 2) };
}

const clockWords = words("à vers dès avant après jusqu'à entre depuis et de");

/** "9 h 40", "dix heures moins vingt", "huit heures et quart", "midi", "minuit". */
function spokenTime(reading: Reading, place: number, number: NumberReader): Clock | undefined {
  const word = reading.at(place);
  if (word === "midi" || word === "minuit") {
    const isHalf = reading.says(place + 1, ["et", "demi"]) || reading.says(place + 1, ["et", "demie"]);
    const base = word === "midi" ? 720 : 0;
    return { minutes: base + (isHalf ? 30 : 0), next: place + (isHalf ? 3 : 1), half: word === "midi" ? "pm" : "am" };
  }
  const isUne = word === "une";
  const hour = isUne ? { value: 1, next: place + 1 } : (number(place) ?? hourDigits(reading, place));
  if (!hour || !Number.isInteger(hour.value) || hour.value > 24) return undefined;
  const unit = reading.at(hour.next);
  if (unit !== "h" && unit !== "heure" && unit !== "heures") return undefined;
  const at = hour.next + 1;
  const of = (minutes: number, next: number): Clock | undefined => {
    const time = clock(hour.value, 0);
    if (time === undefined) return undefined;
    const read = (time + minutes + 1440) % 1440;
    return { minutes: hour.value === 1 ? bySpokenHour(read) : read, next, isMarked: true };
  };
  if (reading.says(at, ["moins", "le", "quart"])) return of(-15, at + 3);
  if (reading.at(at) === "moins") {
    const less = number(at + 1) ?? hourDigits(reading, at + 1);
    if (less && less.value < 60) return of(-less.value, less.next);
  }
  const isClock = clockWords.has(reading.at(place - 1));
  const lasts = !isClock || /^(?:de|d)$/.test(reading.at(at)) || /^d'/.test(reading.at(at));
  if (reading.says(at, ["et", "quart"])) return isClock ? of(15, at + 2) : undefined;
  if (reading.says(at, ["et", "demie"]) || reading.says(at, ["et", "demi"]))
    return isClock ? of(30, at + 2) : undefined;
  const minutes = number(at) ?? hourDigits(reading, at);
  const isMinutes = minutes && Number.isInteger(minutes.value) && minutes.value < 60;
  const unitBehind = isMinutes ? reading.at(minutes.next) : "";
  if (isMinutes && unitBehind !== "minutes" && unitBehind !== "min") return of(minutes.value, minutes.next);
  return lasts ? undefined : of(0, at);
}

/** French. */
export const french: Language = {
  name: "fr",
  common: words(
    "le la les et est sont de du des un une à au aux en dans pour vous il elle ne pas que qui avec sur c'est part coûte un les des ce cette ces on ou où si mais plus très tout tous leur leurs son sa ses nous je tu chaque personnes coûte coûtent vélo deux trois quand comment",
  ),
  numbers: numbersUpTo999(),
  longestNumber: 7,
  scales: named([
    ["mille", 1_000],
    ["million millions", 1_000_000],
    ["milliard milliards", 1_000_000_000],
  ]),
  decimal: ",",
  andHalf: [],
  months: monthsOf(
    "janvier|janv février|févr mars avril|avr mai juin juillet|juil août|aout septembre|sept octobre|oct novembre|nov décembre|déc",
  ),
  doubtfulMonths: words("janv févr avr juil sept oct nov déc"),
  days: daysOf(
    "lundi|lundis mardi|mardis mercredi|mercredis jeudi|jeudis vendredi|vendredis samedi|samedis dimanche|dimanches",
  ),
  ordinals: new Map([["premier", 1]]),
  ordinalEndings: words("er"),
  dateFillers: phrases("de"),
  beforeYear: words("en depuis jusqu'en avant après l'année année de vers dès"),
  currencies: named([...commonCurrencies, ["livre livres", "GBP"], ["franc francs", "CHF"]]),
  cents: named<string | undefined>([["centime centimes cent cents", undefined]]),
  andCents: words("et"),
  units: named([
    ...commonUnits,
    ["minute minutes", { unit: "min", factor: 1 }],
    ["heure heures", { unit: "min", factor: 60 }],
    ["seconde secondes", { unit: "min", factor: 1 / 60 }],
    ["jour jours", { unit: "day", factor: 1 }],
    ["semaine semaines", { unit: "day", factor: 7 }],
    ["mois", { unit: "month", factor: 1 }],
    ["an ans année années", { unit: "year", factor: 1 }],
    ["kilomètre kilomètres", { unit: "m", factor: 1000 }],
    ["mètre mètres", { unit: "m", factor: 1 }],
    ["centimètre centimètres", { unit: "m", factor: 0.01 }],
    ["mille milles", { unit: "mile", factor: 1 }],
    ["kilogramme kilogrammes kilo kilos", { unit: "g", factor: 1000 }],
    ["gramme grammes", { unit: "g", factor: 1 }],
    ["tonne tonnes", { unit: "g", factor: 1_000_000 }],
    ["litre litres", { unit: "l", factor: 1 }],
    ["nœud nœuds noeud noeuds", { unit: "kn", factor: 1 }],
    ["pourcent", { unit: "%", factor: 1 }],
  ]),
  stretches: [
    [["une", "heure", "et", "demie"], 90],
    [["une", "demi", "-", "heure"], 30],
    [["une", "demie", "heure"], 30],
    [["un", "quart", "d'heure"], 15],
    [["trois", "quarts", "d'heure"], 45],
    [["une", "heure"], 60],
  ],
  labels: words("quai page ligne numéro étape section chapitre pont rang siège place table zone règle embarcadère"),
  spokenTime,
  halves: [
    [["du", "matin"], "am"],
    [["du", "soir"], "pm"],
    [["de", "l'après", "-", "midi"], "pm"],
    [["de", "l'après-midi"], "pm"],
    [["le", "soir"], "pm"],
    [["le", "matin"], "am"],
  ],
  connectors: phrases("à, et, ou, -, –, —, /, jusqu'à"),
  counted,
  answers: named([
    ["oui", "yes"],
    ["non", "no"],
    ["aucun aucune", "neither"],
  ]),
  ofTwo: words("neither"),
  subjects: words(""),
  parted: words("ni"),
  negation: {
    denies: (reading, place) => /^(?:pas|jamais|aucun|aucune|sans|ni|rien)$/.test(reading.at(place)),
    excepts: phrases("sauf, au lieu de, plutôt que, excepté, hormis"),
    limits: words("plus avant après moins seulement que"),
    parts: words("mais tandis alors cependant"),
    supposes: words("si"),
  },
};
