import type { Skill } from "../scene";

/** How many were told so far, and whether the last is to be explained. */
interface Wanted {
  told: number;
  explains?: true;
}

const jokes: readonly [joke: string, point: string][] = [
  [
    "Why did the ferry carry two clocks? One for the tide, and one for the excuses.",
    "The tide keeps its own time, and so do people who are late.",
  ],
  ["What did the quay say to the late passenger? “I was here all along.”", "A quay can't leave, so it is never late."],
  [
    "Why was the logbook so calm? It had its highs and lows written down.",
    "A logbook notes high and low water, and moods have highs and lows as well.",
  ],
  [
    "Why do gulls never lose an argument? They bring the whole harbour as witnesses.",
    "Gulls come in crowds, and all of them speak at once.",
  ],
  [
    "What does a lantern have in the evening? A light supper.",
    "“Light” is what a lantern gives, and what a small meal is.",
  ],
  ["Why did the clock miss the boat? It stopped to think.", "A clock that stops shows the wrong time."],
  ["Why was the map so sure of itself? It knew its place.", "A map shows places, and to know one's place is a saying."],
  ["Why did the rope retire? It had come to the end of itself.", "A rope has an end, and so has patience."],
  [
    "Why did the soup go ashore? It was tired of being in the same boat as everybody.",
    "To be in the same boat is to share a trouble; soup was served on one.",
  ],
  [
    "What did the anchor say to the chain? “Must you always hang on?”",
    "A chain hangs on an anchor, as a bore hangs on one's words.",
  ],
  [
    "Why are fog banks so rich? Nobody can see what they spend.",
    "A bank keeps money, and a fog bank hides what is in it.",
  ],
  [
    "Why did the umbrella apply for skipper? It opens under pressure.",
    "Most things close when it gets hard; an umbrella opens when it rains.",
  ],
  [
    "Why did the table of tides go on holiday? It wanted to be between the lines for once.",
    "A table has lines, and what is meant stands between them.",
  ],
  ["Why did the baker want to steer? She knew how to make things rise on time.", "Bread rises, and so does the tide."],
];

/** Tells a joke, another, and what is funny about it. */
export const joke: Skill<Wanted> = {
  name: "a joke",
  isWorded: true,
  about: /\b(?:jokes?|humou?r|fun)\b/i,
  read(message, before) {
    if (/\b(?:jokes?|something funny|make me laugh|a pun)\b/i.test(message) && !/\bexplain\b/i.test(message))
      return { told: before ? before.told + 1 : 0 };
    if (!before) return undefined;
    if (/\b(?:explain|don't get it|do not get it|why is (?:that|it) funny|why\b)/i.test(message))
      return { told: before.told, explains: true };
    return /\b(?:another|one more|next|again|more|a different one|a better one)\b/i.test(message)
      ? { told: before.told + 1 }
      : undefined;
  },
  say({ told, explains }, { choices, talk, asked }) {
    const [words, point] = jokes[(startOf(talk[0]?.visitor ?? asked) + told) % jokes.length] as (typeof jokes)[number];
    if (explains) return point;
    const lead = choices.one(["", "Here is one: ", "This one is told on the quay: ", "Well then: "]);
    return `${lead}${words}`;
  },
};

/** Where a conversation begins in the list: each has jokes of its own, in an order that stays. */
function startOf(text: string): number {
  return [...text].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
}
