import { type Block, written } from "../blocks";
import { completed, followsOn, type Question, questionIn } from "../question";
import type { Skill, Scene as Whole } from "../scene";
import { capital, counted, euros, listed, spelt } from "../words";
import { type Place, places, type Rule, routes, rules, type Sailing, sailingAt, ferry as words } from "../world";

interface Wanted {
  question: Question;
  asks?: "why" | "more";
}

interface Scene extends Whole {
  question: Question;
  brief: boolean;
}

/** Rules that are asked about in words which mean something else where nobody speaks of boats. */
const everyday = /^(?:timetable|food|fares|luggage|parking)$/;

/** Answers from the timetable and the rules of the ferry line. */
export const ferry: Skill<Wanted> = {
  name: "the ferry line",
  isWorded: true,
  about: words,
  read(message, before, { prompt }) {
    const question = questionIn(message);
    if (before && followsOn(message)) return { question: completed(question, before.question) };
    if (before && /^(?:and |but )?why(?: is that| so| not)?\s*\??$/i.test(message.trim()))
      return { ...before, asks: "why" };
    if (before && /^(?:please )?(?:go on|continue|more|tell me more|and\?)[.!?]*$/i.test(message.trim()))
      return { ...before, asks: "more" };
    if (question.topic === "unknown") return undefined;
    const isSailing = question.time !== undefined && sailingAt(question.time) !== undefined;
    const isOfBoats = before !== undefined || isSailing || words.test(prompt) || words.test(message);
    return everyday.test(question.topic) && !isOfBoats ? undefined : { question };
  },
  say({ question, asks }, whole) {
    const scene = { ...whole, question, brief: whole.isBrief };
    if (asks === "why") return whyOf(scene);
    if (asks === "more") return moreOn(scene);
    return written(
      blocksFor(scene),
      scene.manner,
      /\btable\b/i.test(whole.asked.replace(/timetable/gi, "")) ? "table" : "list",
    );
  },
};

function blocksFor(scene: Scene): Block[] {
  switch (scene.question.topic) {
    case "timetable":
      return timetable(scene);
    case "crossing":
      return [text(crossing(scene))];
    case "bicycles":
      return bicycles(scene);
    case "fares":
      return [text(fares(scene))];
    case "unknown":
      return [];
    default:
      return [text(ruled(scene, scene.question.topic))];
  }
}

function text(text: string): Block {
  return { kind: "text", text };
}

/** Whether so many bicycles find room on a sailing, in words. */
export function fits(sailing: Sailing, place: Place, bicycles: number): string {
  const room = `The ${sailing.time} to ${place} has ${counted(sailing.bicycles, "bicycle place", "bicycle places")}${sailing.ramp ? " and a ramp" : ""}`;
  const over = bicycles - sailing.bicycles;
  return over > 0
    ? `${room}, which is ${spelt(over)} too few for ${counted(bicycles, "bicycle", "bicycles")}.`
    : `${room}, so ${counted(bicycles, "bicycle", "bicycles")} will fit.`;
}

function sailingsFor({ question, facts }: Scene, place: Place): Sailing[] {
  const day = question.day ?? facts.day;
  const hour = (time: string) => Number(time.split(":")[0]);
  return routes[place].sailings.filter(({ time, sunday }) => {
    if (day === "Sunday" && !sunday) return false;
    if (question.part === "morning") return hour(time) < 12;
    if (question.part === "afternoon") return hour(time) >= 12 && hour(time) < 17;
    return question.part !== "evening" || hour(time) >= 17;
  });
}

function timetable(scene: Scene): Block[] {
  const { question, facts } = scene;
  const at = question.time === undefined ? undefined : sailingAt(question.time);
  if (question.time !== undefined) {
    if (!at) return [text(`No boat leaves at ${question.time} in my timetable.`)];
    const runs = question.day !== "Sunday" || at.sailing.sunday;
    return [
      text(
        `The ${question.time} goes to ${at.place} and ${runs ? `runs${question.day ? ` on ${question.day}` : " every day it is listed"}` : "does not run on Sunday"}; it takes ${routes[at.place].lasts}.`,
      ),
    ];
  }
  const place = question.place ?? facts.place;
  const named = place ? [place] : [...places];
  const day = question.day ?? facts.day;
  const when = day
    ? `on ${day}${question.part ? ` ${question.part}` : ""}`
    : question.part
      ? `in the ${question.part}`
      : "";
  const rows = named.flatMap((to) =>
    sailingsFor(scene, to).map((each) => [
      each.time,
      ...(place ? [] : [to]),
      ...(question.bicycles ? [counted(each.bicycles, "bicycle place", "bicycle places")] : []),
      ...(each.ramp && (question.bicycles || !scene.brief) ? ["with a ramp"] : []),
    ]),
  );
  if (rows.length === 0) return [text(`There is no boat ${place ? `to ${place} ` : ""}${when || "then"}.`)];
  const which = /\b(?:last|latest)\b/i.test(question.text)
    ? -1
    : /\b(?:first|earliest)\b/i.test(question.text)
      ? 0
      : undefined;
  if (which !== undefined && place) {
    const [time = ""] = rows.at(which) ?? [];
    return [text(`The ${which === 0 ? "first" : "last"} boat to ${place}${when ? ` ${when}` : ""} leaves at ${time}.`)];
  }
  const lead = `From Mill Quay${place ? ` to ${place}` : ""}${when ? ` ${when}` : ""}, ${counted(rows.length, "boat leaves", "boats leave")}:`;
  return [
    {
      kind: "rows",
      lead,
      head: ["Leaves", ...(place ? [] : ["To"]), ...(question.bicycles ? ["Bicycles"] : []), "Note"].slice(
        0,
        Math.max(...rows.map((row) => row.length)),
      ),
      rows,
    },
  ];
}

function crossing({ question, facts }: Scene): string {
  const place = question.place ?? facts.place ?? (facts.sailing ? sailingAt(facts.sailing)?.place : undefined);
  if (place) return `The crossing to ${place} takes ${routes[place].lasts}, on the ${routes[place].boat}.`;
  return `${listed(places.map((each) => `${each} takes ${routes[each].lasts}`))}.`;
}

function bicycles(scene: Scene): Block[] {
  const { question, facts } = scene;
  const time = question.time ?? (question.place || question.day || question.part ? undefined : facts.sailing);
  const at = time === undefined ? undefined : sailingAt(time);
  const count = question.count ?? facts.bicycles ?? 1;
  if (at) {
    const price = scene.brief ? "" : ` ${count === 1 ? "It costs" : "They cost"} ${euros(2 * count)} each way.`;
    return [text(fits(at.sailing, at.place, count) + price)];
  }
  if (question.place || question.day || question.part)
    return timetable({ ...scene, question: { ...question, bicycles: true, time: undefined } });
  return [text(ruled(scene, "bicycles"))];
}

function fares({ question, facts, brief }: Scene): string {
  if (/\b(?:bicycles?|bikes?)\b/i.test(question.text)) {
    const count = question.count ?? facts.bicycles ?? 1;
    return `${capital(counted(count, "bicycle costs", "bicycles cost"))} ${euros(2 * count)} each way.`;
  }
  const people = question.count ?? facts.people ?? 1;
  const place = question.place ?? facts.place ?? (facts.sailing ? sailingAt(facts.sailing)?.place : undefined);
  const rest = brief ? "" : ` ${rules.fares.rule}`;
  if (!place)
    return `A single costs ${listed(places.map((each) => `${euros(routes[each].single)} to ${each}`))}.${rest}`;
  const discount = people >= 10 ? 0.85 : 1;
  const total = routes[place].single * people * discount;
  const who = people === 1 ? "A single" : `Singles for ${people}`;
  return `${who} to ${place} ${people === 1 ? "costs" : "cost"} ${euros(total)}${people >= 10 ? ", with the group's 15 per cent off" : ""}.${rest}`;
}

function ruled({ question, facts, brief, choices }: Scene, topic: Rule): string {
  const { rule, more } = rules[topic];
  const place = question.place ?? facts.place;
  const extra = topic === "access" && place ? routes[place].landing : brief ? "" : choices.one(more);
  return extra && extra !== rule ? `${rule} ${extra}` : rule;
}

function whyOf({ question }: Scene): string {
  const topic = question.topic === "timetable" ? "bicycles" : question.topic;
  return topic in rules ? rules[topic as Rule].why : "I was not told the reason, so I would only be guessing.";
}

function moreOn({ question, choices }: Scene): string {
  if (question.topic in rules) return rules[question.topic as Rule].more.join(" ");
  if (question.place) return `${routes[question.place].landing} The crossing takes ${routes[question.place].lasts}.`;
  return choices.one(["There is nothing more that I know about it.", "That was all that I can say with certainty."]);
}
