import { sumIn } from "../arithmetic";
import { dated, reckoned } from "../dates";
import type { Scene, Skill } from "../scene";
import { converted, measured, unitOf, unitWord, written } from "../units";
import { capital, numberFrom } from "../words";

/** What was worked out: its result, how to say it, and the steps to it. */
interface Worked {
  result: string;
  says: readonly string[];
  steps: readonly string[];
}

interface Wanted {
  /** What is worked out, with what a follow-up changed of it put in. */
  task: string;
  /** Whether the steps are wanted. */
  showsSteps: boolean;
}

const number = String.raw`(-?\d[\d,]*(?:\.\d+)?)`;
const how =
  /\b(?:how did you (?:get|work|reach|calculate|do)|show (?:me )?(?:the |your )?(?:steps|working|work)|step by step|with the steps|explain (?:the|your) (?:steps|working|calculation)|how (?:so|come)|how do you get)\b/i;

/** Works out sums, roots, powers, percentages, units, dates and durations, with the steps when asked how. */
export const reckoning: Skill<Wanted> = {
  name: "something to work out",
  isWorded: true,
  about: /\b(?:math\w*|arithmetic|sums?|numbers?|calculat\w+|reckon\w*|units?|algebra|homework)\b/i,
  read(message, before, { prompt }) {
    const text = message.replace(/(\d),(?=\d{3}\b)/g, "$1");
    if (worked(text, prompt)) return { task: text, showsSteps: how.test(text) };
    if (!before) return undefined;
    if (how.test(text) || /^why\b[^a-z]*$/i.test(text.trim())) return { ...before, showsSteps: true };
    const task = changed(before.task, text, prompt);
    return task === undefined ? undefined : { task, showsSteps: before.showsSteps && /\bsame\b/i.test(text) };
  },
  say({ task, showsSteps }, scene) {
    const done = worked(task, scene.prompt);
    if (!done) return "I can't make that out; write it with digits, please.";
    if (isTight(scene)) return done.result;
    if (!showsSteps) return scene.choices.one(done.says);
    return `${done.steps.map((step, at) => `${at + 1}. ${capital(step)}.`).join("\n")}\n\n${scene.choices.one(done.says)}`;
  },
};

function isTight({ manner: { words, characters } }: Scene): boolean {
  return (words ?? characters ?? 99) < 20;
}

/** A task with another number, another unit, or what came out of it put to further work. */
function changed(task: string, text: string, prompt: string): string | undefined {
  const unit = new RegExp(
    String.raw`^(?:and |what about |how (?:much|many|about) (?:is (?:that|it) )?)?(?:that |it |is that |is it )?(?:in|as|to)?\s*(${unitWord})[?.!]*$`,
    "i",
  ).exec(text.trim())?.[1];
  const conversion = conversionIn(task);
  if (unit && conversion && unitOf(unit)) return `${conversion.value} ${conversion.from} in ${unit}`;
  const result = worked(task, prompt)?.result;
  if (unit && result && unitOf(unit)) return `${result} in ${unit}`;
  const further = new RegExp(
    String.raw`^(?:and |now |then )?(?:(plus|minus|times|divided by|multiplied by|add|subtract|multiply (?:it|that) by|divide (?:it|that) by)|([-+*/×÷]))\s*${number}`,
    "i",
  ).exec(text.trim());
  if (further && result) {
    const sign =
      further[2] ??
      { plus: "+", add: "+", minus: "-", subtract: "-" }[further[1]?.toLowerCase() ?? ""] ??
      (/div/i.test(further[1] ?? "") ? "/" : "*");
    return `${result.replace(/[^\d.-]/g, "")} ${sign} ${further[3]}`;
  }
  if (/\b(?:half|double|twice|squared)\b/i.test(text) && result && /\b(?:that|it)\b/i.test(text)) {
    const value = result.replace(/[^\d.-]/g, "");
    if (/squared/i.test(text)) return `${value} squared`;
    return /half/i.test(text) ? `${value} / 2` : `${value} * 2`;
  }
  const other = new RegExp(
    String.raw`^(?:and |now |what about |how about |the same (?:for|with)|same (?:for|with)|do (?:it|that|the same) (?:for|with)|for|of|with|\s)*${number}\s*(?:${unitWord})?[?.!]*$`,
    "i",
  ).exec(text.trim())?.[1];
  if (other === undefined) return undefined;
  // the number that the task turns on is the last one, but the first of a conversion or a percentage's part
  const place = conversion
    ? new RegExp(number)
    : /%|per ?cent/i.test(task) && /\bof\b/i.test(task)
      ? new RegExp(`${number}(?!.*${number})`)
      : new RegExp(`${number}(?!.*${number})`);
  return task.replace(place, other);
}

/** What a text asks to be worked out. */
function worked(text: string, prompt: string): Worked | undefined {
  const further = /[-+*/×÷]\s*\d|\b(?:plus|minus|times|divided|multiplied)\b/i;
  const part = ofRoots(text);
  // a root or a power inside of a longer sum
  if (part && further.test(text.replace(part.read, ""))) return ofSum(text.replace(part.read, part.result)) ?? part;
  return ofUnits(text) ?? part ?? ofPercent(text) ?? ofComparing(text) ?? ofDates(text, prompt) ?? ofSum(text);
}

function ofUnits(text: string): Worked | undefined {
  const found = conversionIn(text);
  const [from, to] = [found && unitOf(found.from), found && unitOf(found.to)];
  const done = found && from && to && converted(found.value, from, to);
  if (!found || !from || !to || !done) return undefined;
  const result = measured(done.value, to);
  return {
    result,
    says: [
      `${measured(found.value, from)} are ${result}.`,
      `That is ${result}.`,
      `${capital(measured(found.value, from))} make ${result}.`,
    ],
    steps: [done.step],
  };
}

function conversionIn(text: string): { value: number; from: string; to: string } | undefined {
  const there = new RegExp(
    String.raw`${number}\s*(${unitWord})\s+(?:in|to|into|as|are how many|is how many|equals? how many)\s+(${unitWord})\b`,
    "i",
  ).exec(text);
  if (there && unitOf(there[2] ?? "") && unitOf(there[3] ?? ""))
    return { value: Number(there[1]), from: there[2] ?? "", to: there[3] ?? "" };
  const back = new RegExp(
    String.raw`how (?:many|much)\s+(${unitWord})\s+(?:are|is|make|do|in|there)\b[^\d]*${number}\s*(${unitWord})\b`,
    "i",
  ).exec(text);
  if (back && unitOf(back[1] ?? "") && unitOf(back[3] ?? ""))
    return { value: Number(back[2]), from: back[3] ?? "", to: back[1] ?? "" };
  const one = new RegExp(
    String.raw`how (?:many|much)\s+(${unitWord})\s+(?:are|is|make|do|in|there)\b[^\d]*\b(?:a|an|one)\s+(${unitWord})\b`,
    "i",
  ).exec(text);
  if (one && unitOf(one[1] ?? "") && unitOf(one[2] ?? "")) return { value: 1, from: one[2] ?? "", to: one[1] ?? "" };
  return undefined;
}

/** A root or a power, with the part of the text that it was read from. */
function ofRoots(text: string): (Worked & { read: string }) | undefined {
  const root = new RegExp(String.raw`(?:\b(square|cube|third|fourth|cubic)?\s*root of|(√|∛))\s*${number}`, "i").exec(
    text,
  );
  if (root) {
    const degree = root[2] === "∛" || /cub|third/i.test(root[1] ?? "") ? 3 : /fourth/i.test(root[1] ?? "") ? 4 : 2;
    const value = Number(root[3]);
    const name = ["", "", "square root", "cube root", "fourth root"][degree];
    if (value < 0 && degree % 2 === 0)
      return {
        read: root[0],
        result: "none",
        says: [`No real number has the square ${value}.`],
        steps: ["a square is never below zero"],
      };
    const result = written(Math.sign(value) * Math.abs(value) ** (1 / degree));
    const check = Array.from({ length: degree }, () => result).join(" × ");
    return {
      read: root[0],
      result,
      says: [`The ${name} of ${value} is ${result}.`, `It is ${result}.`, `${value} has the ${name} ${result}.`],
      steps: [
        `a ${name} of ${value} is a number that gives ${value} when it is taken ${degree} times as a factor`,
        `${check} ${Number.isInteger(Number(result)) ? "=" : "≈"} ${value}`,
      ],
    };
  }
  const power = new RegExp(
    String.raw`${number}\s*(?:\^|\*\*|to the power of|to the|raised to(?: the power of)?)\s*(\d+|[a-z]+)(?:st|nd|rd|th)?\b|${number}\s+(squared|cubed)\b|\b(square|cube) of ${number}`,
    "i",
  ).exec(text);
  if (!power) return undefined;
  const base = Number(power[1] ?? power[3] ?? power[6]);
  const ordinal = [
    "",
    "first",
    "second",
    "third",
    "fourth",
    "fifth",
    "sixth",
    "seventh",
    "eighth",
    "ninth",
    "tenth",
  ].indexOf(power[2]?.toLowerCase() ?? "-");
  const exponent = power[4]
    ? /squared/i.test(power[4])
      ? 2
      : 3
    : power[5]
      ? /square/i.test(power[5])
        ? 2
        : 3
      : ordinal > 0
        ? ordinal
        : numberFrom(power[2] ?? "");
  if (exponent === undefined || exponent > 60) return undefined;
  const result = written(base ** exponent);
  const chain =
    exponent <= 6 && exponent > 0
      ? [`${Array.from({ length: exponent }, () => base).join(" × ")} = ${result}`]
      : [`${base} is taken ${exponent} times as a factor`];
  return {
    read: power[0],
    result,
    says: [`${base} to the power of ${exponent} is ${result}.`, `That is ${result}.`, `It comes to ${result}.`],
    steps: chain,
  };
}

function ofPercent(text: string): Worked | undefined {
  const percent = String.raw`${number}\s*(?:%|per ?cent)`;
  const of = new RegExp(String.raw`${percent}\s+(?:of|from)\s+(?:€|\$|£)?\s*${number}`, "i").exec(text);
  if (of) {
    const [part, whole] = [Number(of[1]), Number(of[2])];
    const result = written((part * whole) / 100);
    return {
      result,
      says: [`${part}% of ${whole} is ${result}.`, `It is ${result}.`, `That makes ${result}.`],
      steps: [`one per cent of ${whole} is ${written(whole / 100)}`, `${written(whole / 100)} × ${part} = ${result}`],
    };
  }
  const what = new RegExp(
    String.raw`what (?:percentage|per ?cent|%)\s+(?:of ${number} is ${number}|is ${number} (?:of|out of) ${number})`,
    "i",
  ).exec(text);
  if (what) {
    const [part, whole] = what[1] ? [Number(what[2]), Number(what[1])] : [Number(what[3]), Number(what[4])];
    const result = `${written((part / whole) * 100)}%`;
    return {
      result,
      says: [`${part} is ${result} of ${whole}.`, `That is ${result}.`],
      steps: [
        `${part} ÷ ${whole} = ${written(part / whole)}`,
        `${written(part / whole)} × 100 = ${result.replace("%", "")}`,
      ],
    };
  }
  const change = new RegExp(
    String.raw`(?:(add|increase|raise)|(?:take|reduce|subtract|lower|cut))\b[^\d]*(?:${percent}\s+(?:to|on|off|from)\s+(?:€|\$|£)?\s*${number}|(?:€|\$|£)?\s*${number}\s+by\s+${percent})`,
    "i",
  ).exec(text);
  if (!change) return undefined;
  const [part, whole] = change[2] ? [Number(change[2]), Number(change[3])] : [Number(change[5]), Number(change[4])];
  const share = (whole * part) / 100;
  const value = change[1] ? whole + share : whole - share;
  return {
    result: written(value),
    says: [`That makes ${written(value)}.`, `It comes to ${written(value)}.`],
    steps: [
      `${part}% of ${whole} is ${written(share)}`,
      `${whole} ${change[1] ? "+" : "−"} ${written(share)} = ${written(value)}`,
    ],
  };
}

/** What is asked with yes or no of numbers. */
function ofComparing(text: string): Worked | undefined {
  const compare = new RegExp(
    String.raw`\bis ${number} (?:(greater|larger|more|bigger|higher)|(?:less|smaller|lower|fewer)) than ${number}`,
    "i",
  ).exec(text);
  if (compare) {
    const [a, b] = [Number(compare[1]), Number(compare[3])];
    return verdict(
      compare[2] ? a > b : a < b,
      a === b ? `${a} and ${b} are the same` : `${a} is ${a > b ? "greater" : "less"} than ${b}`,
    );
  }
  const kind = new RegExp(String.raw`\bis ${number} (?:a |an )?(prime|even|odd|divisible by (\d+))`, "i").exec(text);
  if (!kind) return undefined;
  const value = Number(kind[1]);
  if (/prime/i.test(kind[2] ?? "")) {
    const divisor =
      value < 2
        ? 1
        : (Array.from({ length: Math.floor(Math.sqrt(value)) }, (_, at) => at + 2).find(
            (each) => each < value && value % each === 0,
          ) ?? 0);
    return verdict(
      divisor === 0,
      divisor === 0
        ? `no number but 1 and ${value} divides ${value}`
        : value < 2
          ? `primes begin with 2`
          : `${value} = ${divisor} × ${value / divisor}`,
    );
  }
  const by = kind[3] ? Number(kind[3]) : 2;
  const holds = (value % by === 0) !== /odd/i.test(kind[2] ?? "");
  return verdict(holds, `${value} ÷ ${by} leaves ${value % by}`);
}

function verdict(holds: boolean, because: string): Worked {
  const word = holds ? "Yes" : "No";
  return { result: word, says: [`${word}: ${because}.`, `${word}, since ${because}.`], steps: [because] };
}

function ofDates(text: string, prompt: string): Worked | undefined {
  const done = dated(text) ?? reckoned(text, prompt);
  return done === undefined ? undefined : { result: done, says: [done], steps: [done.replace(/\.$/, "")] };
}

function ofSum(text: string): Worked | undefined {
  if (!/\d\s*(?:[-+*/×÷]|plus|minus|times|divided by|multiplied by)\s*[(-]*\s*\d/i.test(text)) return undefined;
  // a range, a date or a phone number is no sum
  if (/\b\d{4}-\d{2}-\d{2}\b/.test(text)) return undefined;
  const sum = sumIn(text);
  if (!sum) return undefined;
  const result = written(sum.value);
  return {
    result,
    says: [`${sum.sum} = ${result}`, `${sum.sum} is ${result}.`, `That makes ${result}.`],
    steps: [...sum.steps, `so ${sum.sum} = ${result}`],
  };
}
