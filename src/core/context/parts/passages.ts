import { explained, filledSources } from "../../sources/sources";
import { countsOf, noHolding } from "../../tokens/counts";
import { markOf } from "../mark";
import type { Reason } from "../reason";
import { type Gathered, type PartKind, type PartSource, ranks } from "./part";

/** The words that explain passages and their marks: they go along also where none was found. */
export const explaining: PartKind = {
  kind: "explaining",
  stands: "first",
  rank: null,
  reason: { kind: "explains" },
  gather({ content: { sources }, passages }) {
    if (!sources || sources.documents.length === 0) return null;
    const filled = filledSources(sources);
    const words = explained(filled);
    return {
      // what is found is added to it before it is sent
      mayAdd: passages === undefined ? filled.within : 0,
      holding: { counts: countsOf(words), messages: 0 },
      mark: markOf(words),
      words,
    };
  },
};

/** The passages that the message found, each a part of its own, in or out; before it was looked for them, what goes along whole. */
export const passages: PartKind = {
  kind: "passages",
  stands: "first",
  rank: ranks.passages,
  reason: { kind: "found" },
  gather({ content: { sources }, wholes, passages }) {
    if (!passages) return wholes ? [{ holding: { counts: wholes, messages: 0 }, mark: "" }] : null;
    return passages.map(({ found, fate, words, mark }): Gathered => {
      const { text: _text, ...about } = found;
      const passage = { ...about, mark, rank: fate.rank };
      if (!fate.carried) return { holding: noHolding, mark: "", passage, out: reasonOf(fate.reason, passages) };
      const holding = { counts: countsOf(words), messages: 0 };
      if (sources?.as !== "message") return { holding, mark: markOf(words), passage, words };
      return { holding, mark: markOf(words), passage, stands: "after", ahead: words };
    });
  },
};

type Found = NonNullable<PartSource["passages"]>[number];

/** Why a passage that was found is left out, whatever room there is. */
function reasonOf(reason: Extract<Found["fate"], { carried: false }>["reason"], all: readonly Found[]): Reason {
  switch (reason.kind) {
    case "over-room":
      return { kind: "over-room", by: reason.by };
    case "beyond-best":
      return { kind: "beyond-best", most: reason.most };
    case "below-bar":
      return { kind: "below-bar" };
    case "said-already": {
      const same = all.find(({ found }) => found.passage === reason.by);
      return { kind: "said-already", mark: same?.mark ?? "" };
    }
  }
}
