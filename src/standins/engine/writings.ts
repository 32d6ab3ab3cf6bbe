import type { Choices } from "./random";
import { capital } from "./words";

/** What can be written from a pattern; `long` is in long.ts. */
export type Piece = "poem" | "letter" | "plan" | "checklist" | "outline" | "ideas" | "long";

interface Order {
  about: string;
  to?: string;
  from?: string;
  isFormal: boolean;
  choices: Choices;
  /** The message that asked for it. */
  asked: string;
}

const weekdays = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** Each piece as a text in Markdown. */
export const pieces: Record<Exclude<Piece, "long">, (order: Order) => string> = {
  poem({ about, choices, asked }) {
    const one = choices.one;
    if (/\bhaiku\b/i.test(asked))
      return one([
        `${capital(about)} at dawn\nthe water keeps its own time\na gull writes it down`,
        `Low light, slow water\n${about} waits by the rail\nthe bell says: not yet`,
        `Rain on the still quay\n${about}, and then the wind\nnothing else to say`,
      ]);
    const first = one([
      `There is something in ${about} that the morning understands,`,
      `Of ${about} the water speaks, and runs it through its hands,`,
      `I thought of ${about} today, and of how long it stands,`,
    ]);
    const second = one([
      "a slow and quiet turning, like a tide across the sands.",
      "a rope that someone tied with care, a letter in plain hands.",
      "a lamp that someone left to burn above the lower lands.",
    ]);
    const third = one([
      "It asks for nothing, keeps no count,",
      "It does not hurry, does not wait,",
      "It has no answer and no price,",
    ]);
    const fourth = one(["and still it finds the shore;", "and yet it knows the way;", "and goes on all the same;"]);
    const fifth = one([
      "whoever listens hears it say",
      "and those who stand a while will hear",
      "so let it be, and let it tell",
    ]);
    const sixth = one(["a little, and then more.", "what it has come to say.", "each morning by its name."]);
    return [`**${capital(about)}**`, [first, second, third, fourth, fifth, sixth].join("\n")].join("\n\n");
  },
  letter({ about, to, from, isFormal, choices }) {
    const hello = isFormal
      ? `Dear ${to ? capital(to) : "Sir or Madam"},`
      : `${choices.one(["Dear", "Hello"])} ${to ? to : "there"},`;
    const opening = choices.one([
      `I am writing about ${about || "a small matter"}.`,
      `This is about ${about || "a small matter"}.`,
      `I should like to come back to ${about || "a small matter"}.`,
    ]);
    const middle = choices.one([
      "It has been on my mind for some days, and I would rather say it plainly than leave it.",
      "I have looked at it from each side, and think that we can settle it without much trouble.",
      "It matters to me, and I hope that it does to you as well.",
    ]);
    const ask = choices.one([
      "Could you let me know by the end of the week what you think?",
      "Would you have a quarter of an hour for it this week?",
      "Please tell me which day would suit you.",
    ]);
    const close = isFormal
      ? "Yours faithfully,"
      : choices.one(["Kind regards,", "With best wishes,", "Warm greetings,"]);
    return `${hello}\n\n${opening} ${middle}\n\n${ask}\n\n${close}\n${from ?? "[your name]"}`;
  },
  plan({ about, choices, asked }) {
    const days = /\bweekend\b/i.test(asked) ? ["Saturday", "Sunday"] : daysIn(asked);
    const morning = [
      "begin with the hardest part",
      "an hour of quiet work",
      "look at what is there",
      "ask somebody who knows",
      "a first attempt",
      "put in order what was learnt",
      "go over the weak points",
    ];
    const evening = [
      "note what went well",
      "a walk, and nothing else",
      "prepare the next day",
      "talk it over with a friend",
      "rest",
      "read for half an hour",
      "write down one question",
    ];
    const start = Math.floor(choices.next() * morning.length);
    const rows = days.map(
      (day, at) =>
        `- **${day}**, ${morning[(start + at) % morning.length]} in the morning, ${evening[(start + at * 2) % evening.length]} in the evening`,
    );
    const lead = choices.one([
      `A plan for ${about || "the week"}:`,
      `This is how ${about || "the week"} could go:`,
      `${capital(about || "the week")}, day by day:`,
    ]);
    return `${lead}\n\n${rows.join("\n")}\n\n${choices.one(["Leave one of them free if it gets too much.", "Move what does not fit; keep the order.", "The last one is for whatever was left over."])}`;
  },
  checklist({ about, choices }) {
    const isTravel = /\b(?:travel|trip|journey|holiday|weekend|crossing|packing|hik\w+|camping|beach)\b/i.test(about);
    const isMoving = /\b(?:mov(?:e|ing)|house|flat)\b/i.test(about);
    const items = isTravel
      ? [
          "Tickets and papers",
          "Something warm",
          "Something against the rain",
          "Water and a bite to eat",
          "Charger and a spare cable",
          "The way back, with its times",
        ]
      : isMoving
        ? [
            "Boxes, and a pen to mark them",
            "New address told to everybody",
            "Meters read and noted",
            "Keys counted",
            "A bag for the first night",
            "Help for the heavy things",
          ]
        : [
            "What it is for, in one sentence",
            "Who takes part",
            "What is needed, and from whom",
            "The date, and one in reserve",
            "What it may cost",
            "Who says when it is done",
          ];
    const start = Math.floor(choices.next() * 2);
    const shown = start === 0 ? items : [...items.slice(1), items[0]];
    return `## ${capital(about || "What to think of")}\n\n${shown.map((item) => `- [ ] ${item}`).join("\n")}`;
  },
  outline({ about, choices }) {
    const subject = about || "the subject";
    const ends = choices.one([
      ["What follows from it", "Open questions"],
      ["What to do next", "What is still unknown"],
      ["A look ahead", "Where to read on"],
    ]);
    const parts: [string, string[]][] = [
      [`What ${subject} is`, ["in one sentence", "what it is not"]],
      ["Where it comes from", ["the beginning", "what changed since"]],
      ["How it works", ["the parts", "an example"]],
      ["Why it matters", ["to whom", "what it costs"]],
      [ends[0] ?? "", [ends[1] ?? ""]],
    ];
    return `# ${capital(subject)}\n\n${parts.map(([title, points], at) => `${at + 1}. ${title}: ${points.join("; ")}`).join("\n")}`;
  },
  ideas({ about, choices, asked }) {
    const count = Math.min(Number(/\b(\d+)\b/.exec(asked)?.[1] ?? 5), 10);
    const subject = (about || "it").replace(/^(?:name|title)s? for /, "");
    const isName = /\b(?:names?|titles?|slogans?)\b/i.test(asked);
    const firsts = [
      "Tideline",
      "Lantern",
      "Quiet",
      "Heron",
      "Saltgrass",
      "Clear",
      "Morning",
      "Reed",
      "Harbour",
      "Slow",
    ];
    const seconds = ["Notes", "& Co", "Works", "Hour", "Post", "Hand", "Path", "Room", "Line", "House"];
    const plain = [
      `a small first version of ${subject}, shown to three people`,
      `${subject} told as a story`,
      `${subject} in a single picture`,
      `a day of ${subject} without any tools`,
      `${subject} for people who have never met it`,
      `the opposite of ${subject}, to see what is missing`,
      `${subject} with half of the parts`,
      `a contest around ${subject}`,
      `${subject} together with a neighbour`,
      `${subject} at another time of the day`,
    ];
    const start = Math.floor(choices.next() * 10);
    const items = Array.from({ length: count }, (_, at) =>
      isName
        ? `${firsts[(start + at) % 10]} ${seconds[(start + at * 3) % 10]}`
        : capital(plain[(start + at) % 10] ?? ""),
    );
    return `${choices.one(["Some to begin with:", "These come to mind:", "Here are some:"])}\n\n${items.map((item) => `- ${item}`).join("\n")}`;
  },
};

/** The days that a plan is for. */
function daysIn(asked: string): string[] {
  const count = /\b(\d+|three|four|five|six)[- ]days?\b/i.exec(asked)?.[1];
  if (!count) return weekdays;
  const number = { three: 3, four: 4, five: 5, six: 6 }[count.toLowerCase()] ?? Number(count);
  return Array.from({ length: Math.min(Math.max(number, 1), 14) }, (_, at) => `Day ${at + 1}`);
}
