import type { Choices } from "./random";
import { euros, listed } from "./words";
import { type Place, places, routes, rules } from "./world";

/** Words that a long text has unless the message asks for another number. */
const usualWords = 900;
/** Words that a long text has at most, whatever is asked for. */
const mostWords = 6000;

const guided = /\b(?:guide|handbook|manual|report|account)\b/i;

/**
 * A long text in Markdown: a checklist, a handbook with tables, or a story.
 * @param asked the message; a number of words or tokens in it is heeded
 */
export function atLength(asked: string, choices: Choices, reader?: string): string {
  if (/\bchecklist\b/i.test(asked)) return checklist(choices);
  if (/\b(?:short|brief|small)\b/i.test(asked) && guided.test(asked)) return shortGuide();
  const wanted = /\b(\d{3,5})\s+(words|tokens)\b/i.exec(asked);
  const words = wanted
    ? Number(wanted[1]) * (wanted[2]?.toLowerCase() === "tokens" ? 0.7 : 1)
    : /\bvery long\b/i.test(asked)
      ? 3000
      : usualWords;
  const parts = guided.test(asked) ? handbook(choices) : story(choices, reader);
  return grown(parts, Math.min(words, mostWords));
}

/** The islands in a paragraph each. */
function shortGuide(): string {
  const parts = places.map((place) => {
    const { boat, lasts, single, landing, sailings } = routes[place];
    return `**${place}**: the *${boat}* crosses in ${lasts} and leaves at ${listed(sailings.map(({ time }) => time))}; a single costs ${euros(single)}. ${landing}`;
  });
  return ["## The three islands", ...parts].join("\n\n");
}

/** Parts joined until they have so many words. */
function grown(parts: Generator<string>, words: number): string {
  const kept: string[] = [];
  let count = 0;
  for (const part of parts) {
    kept.push(part);
    count += part.split(/\s+/).length;
    if (count >= words) break;
  }
  return kept.join("\n\n");
}

const people = ["Ivo", "Maren", "Ada", "Tobias", "Wren", "Elsbeth", "Jory", "Hanne"];
const skies = [
  "a low grey sky",
  "thin sun",
  "a sky like washed slate",
  "rain that could not make up its mind",
  "a clean east wind",
  "fog that came up to the knees",
];
const things = [
  "a coil of wet rope",
  "a crate of early apples",
  "a bicycle with one mudguard",
  "a lantern that had lost its glass",
  "a letter in an oilcloth",
  "two sleeping dogs",
  "a basket of eels",
  "a clock that ran backwards",
];
const deeds = [
  "counted the passengers twice",
  "checked the lashings along the rail",
  "wrote the time in the logbook",
  "poured tea into tin cups",
  "called the depth by heart",
  "read the tide from the piles",
  "let the engine idle",
  "took the fares in silence",
];
const remarks = [
  "“We go when the water lets us,”",
  "“The marsh has never been in a hurry,”",
  "“Mind the third plank,”",
  "“It was calmer in my mother's time,”",
  "“Nobody has ever been late for fog,”",
  "“Count them again,”",
];
const turns = [
  "Then the bell on the quay rang once.",
  "Behind them the quay grew small.",
  "Nobody spoke until the first buoy.",
  "A heron stood where the channel bends.",
  "The tide had turned without a sound.",
  "Somewhere ahead an engine answered.",
];

function* story(choices: Choices, reader?: string): Generator<string> {
  const place: Place = choices.one(places);
  const boat = routes[place].boat;
  yield `# The crossing to ${place}`;
  if (reader) yield `*For ${reader}, who asked for it.*`;
  for (let part = 1; ; part++) {
    if (part % 4 === 1)
      yield `## ${["At Mill Quay", "In the channel", "Past the last buoy", "Within sight of land"][Math.floor(part / 4) % 4]}${part > 16 ? `, day ${Math.ceil(part / 16)}` : ""}`;
    const one = choices.one(people);
    const other = choices.one(people.filter((each) => each !== one));
    const first = choices.one(things);
    const second = choices.one(things.filter((each) => each !== first));
    yield [
      choices.one([
        `The *${boat}* lay under ${choices.one(skies)} when ${one} ${choices.one(deeds)}.`,
        `Under ${choices.one(skies)}, ${one} ${choices.one(deeds)} and said nothing of it.`,
        `${one} ${choices.one(deeds)}, as on every crossing, under ${choices.one(skies)}.`,
        `It was a morning of ${choices.one(skies)}, and the *${boat}* smelt of rope and tea.`,
      ]),
      choices.one(turns),
      choices.one([
        `${other} had brought ${first} and ${second}, and ${choices.one(deeds)}.`,
        `Somebody had left ${first} on the bench; ${other} put it beside ${second}.`,
        `Between the benches stood ${first}, which ${other} had carried all the way from the quay office.`,
      ]),
      `${choices.one(remarks)} said ${one}.`,
      choices.one([
        `It was ${counted(choices)} minutes past the hour.`,
        `The water stood ${counted(choices)} hands below the mark.`,
        "Gulls followed for a while and thought better of it.",
        `${other} laughed, and then the wind took the rest of it.`,
      ]),
    ].join(" ");
  }
}

function counted(choices: Choices): string {
  return choices.one(["three", "four", "seven", "nine", "eleven", "twenty"]);
}

function* handbook(choices: Choices): Generator<string> {
  yield "# A handbook for passengers of Saltmarsh Ferry";
  yield "What follows is put together from the timetable and the rules of the line.";
  for (let volume = 1; ; volume++) {
    for (const place of places) {
      const route = routes[place];
      yield `## ${volume > 1 ? `${volume}. ` : ""}${place}`;
      yield `The *${route.boat}* crosses in ${route.lasts}; a single costs ${euros(route.single)}. ${route.landing}`;
      yield [
        "| Leaves | Bicycle places | Ramp | Sunday |",
        "| --- | ---: | --- | --- |",
        ...route.sailings.map(
          ({ time, bicycles, ramp, sunday }) =>
            `| ${time} | ${bicycles} | ${ramp ? "yes" : "no"} | ${sunday ? "yes" : "no"} |`,
        ),
      ].join("\n");
      yield `${choices.one(people)} of the quay office adds: ${choices.one(remarks).replace(",”", ".”")} ${choices.one(turns)}`;
    }
    for (const [name, { rule, more, why }] of Object.entries(rules)) {
      yield `### On ${name}`;
      yield `${rule} ${why}`;
      yield more.map((each) => `- ${each}`).join("\n");
    }
  }
}

function checklist(choices: Choices): string {
  const items = [
    "Ticket, or the money for one",
    "Bicycle places booked at the quay office",
    "Dog on the lead",
    "At most two pieces of luggage of 25 kg",
    "Something warm: the deck is open",
    "The time of the last boat back",
    `A word with ${choices.one(people)} about the tide`,
  ];
  return `## Before you cross\n\n${items.map((each) => `- [ ] ${each}`).join("\n")}\n\nBe on the quay **ten minutes** before the boat leaves.`;
}
