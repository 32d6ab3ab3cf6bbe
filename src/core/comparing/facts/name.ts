import { english } from "./languages/english";
import { words } from "./languages/language";
import type { Reading } from "./token";

/** A name at a place of an English text. */
export interface NameRead {
  value: string;
  first: number;
  next: number;
}

/** Words with which sentences begin, and which are no names though they have a capital there. */
const openers = words(`
  a an the this that these those it its he she they we you i my your his her their our who what which when where why how if unless
  because since so but and or nor yet for from to at on in into onto by with without within of off over under after before between
  during until till through as than then there here now today tomorrow yesterday tonight yes no neither both none all any some each
  every either another other others few many most more much several such same only just also even still never always often sometimes
  usually please note ask take tell see visit call meet use try go get give come bring buy book pay pass let make keep leave sail walk
  check choose pick find follow look read say said says send show start stop turn wait write add do does did don't can could may
  might must shall should will would is are was were be been has have had not nothing nobody everything everyone something someone
  while whereas although though however instead according about above below up down out one two three four five six seven eight nine
  ten eleven twelve first second third last next luggage parking boarding breakfast lunch dinner payment access entry admission travel
  cycling cancelling children dogs adults bicycles fares tickets boats passengers people visitors best thanks thank sorry hello hi dear
  welcome good great sure absolutely certainly of-course unfortunately again once remember
`);

/** Verbs in the singular: a bare noun with a capital before one of them is a name. */
const verbs = words(
  "is was has had says said lives lived works worked runs ran sails sailed leaves left takes took went goes came comes will meets met lies stands",
);

/** What people do: whatever stands before one of these is somebody. */
const ofPeople = words(
  "said says asked asks told tells wants wanted likes liked knows knew lives lived thinks thought",
);

/** Capitalised words that are never names. */
const never = words("i ok celsius fahrenheit eur usd gbp am pm pdf faq id url csv json");

/** A name that begins at a place: words with capitals where none has to be. @param isCell whether it stands in a column of names */
export function nameAt(reading: Reading, place: number, isCell = false): NameRead | undefined {
  if (!isCapital(reading, place)) return undefined;
  let next = place + 1;
  while (isCapital(reading, next) && !reading.begins(next)) next += 1;
  let first = place;
  if (reading.begins(place) && !isCell) {
    while (first < next && openers.has(reading.at(first))) first += 1;
    const isAlone = next - first === 1 && first === place;
    if (first === next || (isAlone && !isSubject(reading, place, next))) return undefined;
  }
  const said = [];
  for (let at = first; at < next; at++) said.push(reading.at(at).replace(/'s$/, ""));
  return { value: said.join(" "), first, next };
}

/** Whether a single word at the beginning of a sentence is who does what the sentence says. */
function isSubject(reading: Reading, place: number, next: number): boolean {
  const word = reading.at(place);
  const verb = reading.at(next);
  if (openers.has(word)) return false;
  const isOrdinary = /(?:ing|s|tion|ness|ment)$/.test(word);
  return word.endsWith("'s") || ofPeople.has(verb) || (!isOrdinary && verbs.has(verb));
}

function isCapital(reading: Reading, place: number): boolean {
  const token = reading.tokens[place];
  if (token?.kind !== "word" || !/^\p{Lu}\p{Ll}/u.test(token.text)) return false;
  const { lower } = token;
  return (
    !never.has(lower) &&
    !english.months.has(lower) &&
    !english.days.has(lower) &&
    !/n't$|'(?:m|ll|ve|re|d)$/.test(lower)
  );
}
