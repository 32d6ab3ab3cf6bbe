import { pdfOf } from "./pdf";

/**
 * The skipper's handbook of Saltmarsh Ferry, sixty pages: twelve chapters, a page for each topic of each harbour and
 * each boat, and cards for what may happen. All of it is made up.
 */

const chapters: readonly [title: string, ...paragraphs: string[]][] = [
  [
    "Before each sailing",
    "The skipper walks the boat once from bow to stern, and once from deck to keel.",
    "No boat leaves with a life ring missing. The mate counts them, and says the number aloud.",
  ],
  [
    "Signals in fog",
    "In fog the bell is rung with five strokes each minute while the boat lies, and the horn is blown once in two minutes while she moves.",
    "Speed in fog is never more than four knots. A second pair of eyes stands at the bow.",
  ],
  [
    "Heavy weather",
    "Above seven of the wind scale no boat leaves for Far Skerry; above eight none leaves at all.",
    "The mate may move a dog below in heavy weather, and tells its owner so. Bicycles are lashed by the frame, never by the wheel.",
  ],
  [
    "Passengers",
    "Nobody stands on the ramp while it moves. Children under six have a hand on them on the upper deck.",
    "A passenger who is unwell is brought to the seat by the wheelhouse, out of the wind.",
  ],
  [
    "The ramp",
    "The ramp is lowered at one metre a second at most, with one hand on the brake.",
    "Ice on the ramp is broken and swept, never salted.",
  ],
  [
    "Freight",
    "Freight is weighed on the quay. More than 900 kg in one piece needs a plan that the skipper has signed.",
    "Live lobsters travel in the shade, and are not stacked higher than three boxes.",
  ],
  [
    "Radio",
    "The line listens on channel 11. Each sailing is called in at the quay office five minutes after leaving.",
    "A boat that is not heard for thirty minutes is called by the office; after ten more the coast guard is.",
  ],
  [
    "The log",
    "Every sailing has a line in the log: times, wind, water, people, bicycles, animals, and anything odd.",
    "A line that was wrong is struck through once, so that it can still be read.",
  ],
  [
    "Fuel and water",
    "Boats take fuel at Mill Quay alone, with no passenger on board.",
    "Fresh water is taken each evening. What stood for two days is let out.",
  ],
  [
    "Crew",
    "Three hours at the wheel are followed by half an hour away from it.",
    "The mate of the last boat locks the waiting room and sees that the lamp on the pier burns.",
  ],
  [
    "Wildlife",
    "Seals on the slip are left alone; the boat waits up to fifteen minutes, and lands at the steps after that.",
    "From April to July boats keep 200 metres from the tern colony on the east side of Tansy Holm.",
  ],
  [
    "Guests on the bridge",
    "One guest at a time may stand on the bridge, and none in fog or within a harbour.",
    "The guest touches nothing, and is told where the life jackets are.",
  ],
];

interface Harbour {
  name: string;
  depth: string;
  light: string;
  wind: string;
  lines: number;
  rock: string;
}

const harbours: readonly Harbour[] = [
  {
    name: "Mill Quay",
    depth: "3.4",
    light: "white, two flashes in ten seconds",
    wind: "south-west above six",
    lines: 4,
    rock: "the old mooring stone, thirty metres off the steps",
  },
  {
    name: "Brindle",
    depth: "2.1",
    light: "green, one flash in five seconds",
    wind: "north above five",
    lines: 3,
    rock: "the Hen, which is dry at half water",
  },
  {
    name: "Tansy Holm",
    depth: "1.9",
    light: "red, three flashes in twelve seconds",
    wind: "east above six",
    lines: 5,
    rock: "the Two Sisters, marked by a perch with a broom on it",
  },
  {
    name: "Far Skerry",
    depth: "2.8",
    light: "white, one long flash in eight seconds",
    wind: "anything above four from the west",
    lines: 6,
    rock: "the Anvil, over which the sea breaks",
  },
];

const ofHarbour: readonly [title: string, say: (harbour: Harbour) => readonly string[]][] = [
  [
    "Depth",
    ({ name, depth }) => [
      `At ${name} a boat goes in down to a depth of ${depth} metres under the mark on the pier, and not below.`,
      "The mark is read by the mate, not guessed from the bridge.",
    ],
  ],
  [
    "Lights",
    ({ name, light }) => [
      `The light of ${name} is ${light}.`,
      "A light that is out is called in at once, and written into the log with the time.",
    ],
  ],
  [
    "Wind",
    ({ name, wind }) => [
      `${name} is not entered in a wind from ${wind}.`,
      "Whoever turns back says so on the radio before turning.",
    ],
  ],
  [
    "Lines",
    ({ name, lines }) => [
      `At ${name} the boat lies on ${lines} lines. The spring goes ashore first and comes off last.`,
      "Lines are doubled when the boat lies there over night.",
    ],
  ],
  [
    "What to keep clear of",
    ({ name, rock }) => [
      `Off ${name} there is ${rock}.`,
      "New crew are shown it from the water in daylight before they take the wheel there.",
    ],
  ],
];

interface Boat {
  name: string;
  people: number;
  engine: string;
  rafts: number;
  fuel: number;
  crew: number;
  oddity: string;
}

const boats: readonly Boat[] = [
  {
    name: "Curlew",
    people: 96,
    engine: "two engines of 120 kW",
    rafts: 4,
    fuel: 1400,
    crew: 3,
    oddity: "pulls to port when she goes astern",
  },
  {
    name: "Teal",
    people: 140,
    engine: "two engines of 190 kW",
    rafts: 6,
    fuel: 2200,
    crew: 4,
    oddity: "has a ramp that sticks in frost: a kettle of warm water frees it",
  },
  {
    name: "Plover",
    people: 38,
    engine: "one engine of 210 kW",
    rafts: 2,
    fuel: 900,
    crew: 2,
    oddity: "rolls more than the others, and is kept off the beam of the sea",
  },
];

const ofBoat: readonly [title: string, say: (boat: Boat) => readonly string[]][] = [
  [
    "People",
    ({ name, people, crew }) => [
      `${name} carries ${people} passengers with a crew of ${crew}.`,
      "The count is made at the ramp, and once more from the bridge.",
    ],
  ],
  [
    "Engine",
    ({ name, engine }) => [
      `${name} has ${engine}.`,
      "The oil is looked at each morning before the first start, while it is cold.",
    ],
  ],
  [
    "Rafts",
    ({ name, rafts }) => [
      `${name} has ${rafts} rafts. Each is opened once in two years, by the yard.`,
      "Nothing is stowed on a raft, not even a coat.",
    ],
  ],
  [
    "Fuel",
    ({ name, fuel }) => [
      `The tank of ${name} holds ${fuel} litres. She does not leave with less than a third of it.`,
      "Fuel is dipped with the stick, since the gauge lies in a swell.",
    ],
  ],
  [
    "What is odd about her",
    ({ name, oddity }) => [
      `${name} ${oddity}.`,
      "Whoever finds out something new about her writes it on the last page of her log.",
    ],
  ],
  [
    "Winter",
    ({ name }) => [
      `${name} comes out of the water in the second week of November.`,
      "Her cushions go to the loft of the quay office, with a mousetrap on each side.",
    ],
  ],
];

const cards: readonly [title: string, ...steps: string[]][] = [
  [
    "Man overboard",
    "Throw the ring with the light.",
    "One of the crew points, and does nothing but point.",
    "Turn towards the side on which the person fell.",
  ],
  [
    "Fire in the engine room",
    "Close the flaps.",
    "Stop the fans.",
    "Open the bottle from outside. Nobody goes in for fifteen minutes.",
  ],
  ["Water in the bilge", "Start both pumps.", "Steer for the nearest slip, not for the harbour."],
  ["Aground", "Stop the engine.", "Sound all round before trying anything.", "On a rising tide, wait."],
  [
    "Loss of steering",
    "Drop the anchor where the depth allows.",
    "The emergency tiller hangs under the bridge ladder.",
  ],
  ["A passenger is missing", "Count once more.", "Search from the bow, two and two.", "Turn back along the track."],
  ["Engine fails", "Call it in on channel 11.", "Show two black balls by day, and two red lights by night."],
  ["Collision", "Look to the people first, to the boat second, to the other boat third."],
  [
    "A child without grown-ups",
    "Bring the child to the bridge, and give it the biscuit tin.",
    "Ask on the loudspeaker, without a name.",
  ],
];

/** Each page as its lines, a heading first. */
export function handbookPages(): string[][] {
  return [
    [
      "# Skipper's handbook",
      "Saltmarsh Ferry, Mill Quay.",
      "",
      "For the boats Curlew, Teal and Plover, and for whoever takes their wheels.",
    ],
    ...chapters.map(([title, ...paragraphs]) => pageOf(title, paragraphs)),
    ...harbours.flatMap((harbour) =>
      ofHarbour.map(([title, say]) => pageOf(`${harbour.name}: ${title.toLowerCase()}`, say(harbour))),
    ),
    ...boats.flatMap((boat) => ofBoat.map(([title, say]) => pageOf(`${boat.name}: ${title.toLowerCase()}`, say(boat)))),
    ...cards.map(([title, ...steps]) => pageOf(`Card: ${title.toLowerCase()}`, steps)),
  ];
}

export function handbook(): Buffer {
  return pdfOf(handbookPages());
}

/** Letters of a line. */
const width = 88;

function pageOf(title: string, paragraphs: readonly string[]): string[] {
  return [`# ${title}`, ...paragraphs.flatMap((paragraph) => [...wrapped(paragraph), ""])];
}

function wrapped(text: string): string[] {
  const lines: string[] = [];
  for (const word of text.split(" ")) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length < width) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}
