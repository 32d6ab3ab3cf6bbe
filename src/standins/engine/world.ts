/** What a model knows of Saltmarsh Ferry without being told: boats, fares, rules. All of it is made up. */

export const places = ["Brindle", "Tansy Holm", "Far Skerry"] as const;
export type Place = (typeof places)[number];

export const days = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"] as const;
export type Day = (typeof days)[number];

/** One departure from Mill Quay. */
export interface Sailing {
  time: string;
  bicycles: number;
  ramp: boolean;
  sunday: boolean;
}

export interface Route {
  boat: string;
  /** How long the crossing takes, in words. */
  lasts: string;
  minutes: number;
  /** A single for an adult, in euros. */
  single: number;
  landing: string;
  sailings: Sailing[];
}

const sailing = (time: string, bicycles: number, ramp: boolean, sunday: boolean): Sailing => ({
  time,
  bicycles,
  ramp,
  sunday,
});

export const routes: Record<Place, Route> = {
  Brindle: {
    boat: "Teal",
    lasts: "20 minutes",
    minutes: 20,
    single: 4.2,
    landing: "The landing on Brindle has eleven steps at low tide and none at high tide.",
    sailings: [
      sailing("7:20", 4, false, false),
      sailing("10:30", 8, true, true),
      sailing("14:45", 4, false, false),
      sailing("18:20", 8, true, true),
    ],
  },
  "Tansy Holm": {
    boat: "Curlew",
    lasts: "35 minutes",
    minutes: 35,
    single: 6.5,
    landing: "Tansy Holm has a ramp down to the pontoon, so it is free of steps at every tide.",
    sailings: [
      sailing("8:10", 4, false, true),
      sailing("9:40", 8, true, true),
      sailing("13:15", 4, false, false),
      sailing("17:30", 8, true, true),
    ],
  },
  "Far Skerry": {
    boat: "Gannet",
    lasts: "1 hour 25 minutes",
    minutes: 85,
    single: 14,
    landing: "At Far Skerry the last stretch is by tender, which can't be boarded without steps.",
    sailings: [sailing("9:05", 2, false, true), sailing("15:50", 2, false, false)],
  },
};

/** The sailing that leaves Mill Quay at a time, with where it goes. */
export function sailingAt(time: string): { place: Place; sailing: Sailing } | undefined {
  for (const place of places) {
    const found = routes[place].sailings.find((each) => each.time === time);
    if (found) return { place, sailing: found };
  }
  return undefined;
}

/** Words of the ferry line and its islands. */
export const ferry =
  /\b(?:ferr(?:y|ies)|boats?|crossings?|sailings?|passengers?|timetables?|saltmarsh|quay|islands?|brindle|tansy holm|far skerry)\b/i;

/** Rules by topic: the rule itself, more about it, and the reason for it. */
export const rules = {
  dogs: {
    rule: "Dogs travel free on all boats of the line and stay on the lead on the car deck.",
    more: ["There are two rings on the starboard side to tie a lead to.", "Guide dogs may come into the saloon."],
    why: "The saloon is small, and the car deck can be hosed down.",
  },
  luggage: {
    rule: "Two pieces of luggage of up to 25 kg each travel free; every further piece costs €1.50.",
    more: ["Pieces are stowed by the crew behind the wheelhouse.", "Prams and wheelchairs do not count as luggage."],
    why: "The boats are trimmed by hand, so the crew has to know what comes on board.",
  },
  cancelling: {
    rule: "A ticket is refunded in full until 24 hours before the sailing, and by half until one hour before it; after that it is not refunded.",
    more: [
      "If the line itself cancels, you get the full price back or a place on the next boat.",
      "Refunds are paid at the quay office on Mill Quay.",
    ],
    why: "A place that comes free a day ahead can still be sold to somebody else.",
  },
  access: {
    rule: "Mill Quay is free of steps; the crew helps wheelchair users on board if the quay office knows 24 hours ahead.",
    more: [
      "The 9:40 and the 17:30 to Tansy Holm have a ramp all the way.",
      "At Far Skerry the last stretch is by tender, which can't be boarded without steps.",
    ],
    why: "The ramp has to be bolted on before the boat is loaded.",
  },
  parking: {
    rule: "There are 60 parking places behind Mill Quay, at €3 a day; they can't be booked.",
    more: ["On Saturdays in summer they are full by 9:00."],
    why: "The ground belongs to the marsh trust, which limits it to what is there.",
  },
  food: {
    rule: "There is a kiosk with tea, soup and rolls on the Curlew and on the Gannet; the Teal has none.",
    more: ["The soup is usually fish, and there is always one without."],
    why: "The crossing to Brindle takes only 20 minutes.",
  },
  bicycles: {
    rule: "A bicycle costs €2.00 each way, and every sailing has a number of places for them.",
    more: [
      "Places for bicycles can be booked at the quay office up to an hour before the boat leaves.",
      "Electric bicycles count like others; the battery stays on.",
    ],
    why: "Bicycles stand lashed along the rail, and there are only so many lashings.",
  },
  fares: {
    rule: "Children under 12 pay half, and a return costs two singles less 10 per cent.",
    more: ["Groups of ten and more get 15 per cent off."],
    why: "Most of what a crossing costs is the crew, whoever comes along.",
  },
} as const;

export type Rule = keyof typeof rules;
