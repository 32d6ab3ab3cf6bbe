import type { Said, TalkState } from "@/module/talk";

/** States of the page that can be looked at without a call. */
export const sampleNames = ["first", "waiting", "arriving", "long-code", "cut", "failed", "offline"] as const;
export type SampleName = (typeof sampleNames)[number];

const at = Date.UTC(2026, 6, 14, 9, 12);
const blank = {
  pictures: [],
  thought: "",
  failure: null,
  at,
  tokens: null,
  price: null,
  currency: null,
  siblings: [],
  rating: null,
  cites: [],
  calls: [],
  data: null,
  isByHand: false,
};
const question: Said = { ...blank, id: "sample 1", role: "visitor", state: "said", text: "Do dogs pay on the 9:40?" };
const answer: Said = {
  ...blank,
  id: "sample 2",
  role: "app",
  state: "complete",
  thought: "The passenger asks about dogs. The luggage rules have a line on them.",
  text: "Dogs travel free on all boats of the line and stay on the lead on the car deck.",
  tokens: 359,
  price: 0.0014,
  currency: "EUR",
};
const second: Said = { ...question, id: "sample 3", text: "And how do I count the boats of a day?" };

const code = `A list of departures is enough:

\`\`\`python
from datetime import time

departures = {
    "Brindle": [time(7, 20), time(9, 40), time(13, 5), time(17, 45)],
    "Tansy Holm": [time(8, 0), time(11, 30), time(16, 15)],
    "Far Skerry": [time(9, 40)],
}

def boats_after(island: str, earliest: time) -> list[time]:
    """All boats to an island that leave at a time or later, the first one first."""
    return sorted(departure for departure in departures[island] if departure >= earliest)

for island in departures:
    print(f"{island:<12} {len(boats_after(island, time(9, 0)))} boats after nine, of {len(departures[island])} in all that day")
\`\`\`

| island | boats | first |
|---|---:|---|
| Brindle | 4 | 7:20 |
| Tansy Holm | 3 | 8:00 |
| Far Skerry | 1 | 9:40 |
`;

const ready = { conversation: "sample", failure: null, hasEarlier: false, isRefused: false, state: "ready" } as const;

/** Each of them. */
export const samples: Record<SampleName, TalkState> = {
  first: { ...ready, conversation: null, messages: [] },
  waiting: { ...ready, state: "waiting", messages: [question, { ...answer, state: "waiting", text: "", thought: "" }] },
  arriving: {
    ...ready,
    state: "arriving",
    messages: [question, { ...answer, state: "arriving", text: answer.text.slice(0, 68), tokens: null, price: null }],
  },
  "long-code": {
    ...ready,
    messages: [question, answer, second, { ...answer, id: "sample 4", text: code, tokens: 512 }],
  },
  cut: { ...ready, messages: [question, { ...answer, state: "cut", text: answer.text.slice(0, 54) }] },
  failed: {
    ...ready,
    messages: [
      question,
      {
        ...answer,
        state: "failed",
        text: "Dogs travel free on all",
        thought: "",
        failure: { kind: "broken-off", detail: "", advice: "" },
        tokens: null,
        price: null,
      },
    ],
  },
  offline: {
    ...ready,
    messages: [{ ...question, state: "unsent", failure: { kind: "offline", detail: "", advice: "" } }],
  },
};
