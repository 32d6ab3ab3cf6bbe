import type { Reading } from "../token";
import {
  type Clock,
  clock,
  commonCurrencies,
  commonUnits,
  type Language,
  named,
  type Weekday,
  weekdays,
} from "./language";

const figures = "〇一二三四五六七八九";

/** A number in Chinese characters below ten thousand, a token a character. */
function kanjiNumber(reading: Reading, place: number): { value: number; next: number } | undefined {
  let [sum, current, at] = [0, 0, place];
  let isRead = false;
  for (; ; at += 1) {
    const sign = reading.at(at);
    const figure = figures.indexOf(sign);
    const power = { 十: 10, 百: 100, 千: 1000 }[sign];
    if (sign !== "" && figure >= 0) current = current * 10 + figure;
    else if (power) {
      sum += (current || 1) * power;
      current = 0;
    } else break;
    isRead = true;
  }
  return isRead ? { value: sum + current, next: at } : undefined;
}

function anyNumber(reading: Reading, place: number): { value: number; next: number } | undefined {
  if (reading.kind(place) === "digits") return { value: Number(reading.at(place)), next: place + 1 };
  return kanjiNumber(reading, place);
}

const chars = (text: string) => [...text];

/** "午前9時40分", "17時半", "10時20分前", "正午". */
function spokenTime(reading: Reading, place: number): Clock | undefined {
  if (reading.says(place, chars("正午"))) return { minutes: 720, next: place + 2, half: "pm" };
  const isMorning = reading.says(place, chars("午前"));
  const isLater = reading.says(place, chars("午後"));
  const hour = anyNumber(reading, isMorning || isLater ? place + 2 : place);
  if (!hour || hour.value > 24 || reading.at(hour.next) !== "時" || reading.at(hour.next + 1) === "間")
    return undefined;
  const base = clock(isLater && hour.value < 12 ? hour.value + 12 : hour.value, 0);
  if (base === undefined) return undefined;
  const half = isLater ? ("pm" as const) : isMorning ? ("am" as const) : undefined;
  const of = (minutes: number, next: number): Clock => ({
    minutes: (base + minutes + 1440) % 1440,
    next,
    half,
    isMarked: true,
  });
  const at = hour.next + 1;
  if (reading.at(at) === "半") return of(30, at + 1);
  const minutes = anyNumber(reading, at);
  if (!minutes || minutes.value > 59 || reading.at(minutes.next) !== "分" || reading.at(minutes.next + 1) === "間")
    return of(0, at);
  const isBefore = reading.at(minutes.next + 1) === "前";
  return of(isBefore ? -minutes.value : minutes.value, minutes.next + (isBefore ? 2 : 1));
}

/** What counts people is one, however politely it is said. */
const counters = new Map(
  [..."台人名便本枚回席個隻艘階番度泊冊匹頭組歩歳才点品駅港室通着足杯箱袋"].map((sign) => [
    sign,
    sign === "名" ? "人" : sign,
  ]),
);

function counted(reading: Reading, place: number) {
  const counter = counters.get(reading.at(place));
  if (counter) return { noun: counter, next: place + 1 };
  return undefined;
}

/** Japanese. A token is a character, or a run of Katakana. */
export const japanese: Language = {
  name: "ja",
  common: new Set(),
  numbers: new Map(),
  longestNumber: 0,
  scales: named([["万", 10_000]]),
  decimal: ".",
  andHalf: [],
  months: new Map(),
  doubtfulMonths: new Set(),
  days: new Map([..."月火水木金土日"].map((sign, at) => [`${sign}曜`, weekdays[at] as Weekday])),
  ordinals: new Map(),
  ordinalEndings: new Set(),
  dateFillers: [],
  beforeYear: new Set(),
  currencies: named([...commonCurrencies, ["円", "JPY"], ["ユーロ", "EUR"], ["ドル", "USD"], ["ポンド", "GBP"]]),
  cents: named<string | undefined>([["セント", undefined]]),
  andCents: new Set(),
  units: named([
    ...commonUnits,
    ["分", { unit: "min", factor: 1 }],
    ["秒", { unit: "min", factor: 1 / 60 }],
    ["キロメートル", { unit: "m", factor: 1000 }],
    ["メートル", { unit: "m", factor: 1 }],
    ["センチ センチメートル", { unit: "m", factor: 0.01 }],
    ["キログラム キロ", { unit: "g", factor: 1000 }],
    ["グラム", { unit: "g", factor: 1 }],
    ["トン", { unit: "g", factor: 1_000_000 }],
    ["リットル", { unit: "l", factor: 1 }],
    ["ノット", { unit: "kn", factor: 1 }],
    ["パーセント", { unit: "%", factor: 1 }],
  ]),
  stretches: [],
  labels: new Set(),
  spokenTime: (reading, place) => spokenTime(reading, place),
  halves: [],
  connectors: [["か", "ら"], ["〜"], ["~"], ["-"], ["–"], ["か"], ["と"]],
  counted,
  answers: named([
    ["はい", "yes"],
    ["いいえ", "no"],
  ]),
  ofTwo: new Set(),
  subjects: new Set(),
  parted: new Set(),
  negation: {
    denies(reading, place) {
      const rest = [0, 1, 2, 3].map((step) => reading.at(place + step)).join("");
      return rest.startsWith("ません") || rest.startsWith("ない") || rest.startsWith("なく") || rest.startsWith("なし");
    },
    excepts: [],
    limits: new Set(),
    parts: new Set(),
    supposes: new Set(),
  },
};

/** Units that are said with two signs: hours, days, weeks, months and years. */
export const longUnits: readonly (readonly [string[], { unit: string; factor: number }])[] = [
  [chars("時間"), { unit: "min", factor: 60 }],
  [chars("分間"), { unit: "min", factor: 1 }],
  [chars("日間"), { unit: "day", factor: 1 }],
  [chars("週間"), { unit: "day", factor: 7 }],
  [["か", "月"], { unit: "month", factor: 1 }],
  [["ヶ", "月"], { unit: "month", factor: 1 }],
  [chars("年間"), { unit: "year", factor: 1 }],
];

export { anyNumber, kanjiNumber };
